/** Names that come from files, made fit for a document. */
import { soundText } from '../text';
import { LIMITS } from './layer';

/** Names from files may hold anything; what a name cannot hold becomes a dash. */
export function cleanName(name: string, otherwise = 'Surface'): string {
  const dashed = name.replace(/[/\\\u0000-\u001f]+/g, '-').trim();
  return soundText(dashed, LIMITS.maxNameLength).trim() || otherwise;
}
