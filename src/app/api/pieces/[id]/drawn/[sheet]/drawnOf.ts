import { refuse } from '@/server/access';
import type { DrawnOf } from '@/server/drawn';

/** Of which sheet, by which build (`?build=`): or what is wrong with that. */
export function drawnOf(request: Request, pieceId: string, sheetId: string): DrawnOf | Response {
  const build = new URL(request.url).searchParams.get('build') ?? '';
  if (!/^[0-9a-f]{1,64}$/.test(build)) return refuse(400, 'What was drawn goes by the build that drew it.');
  if (sheetId.length > 60) return refuse(400, 'This is no address of a sheet.');
  return { pieceId, sheetId, build };
}
