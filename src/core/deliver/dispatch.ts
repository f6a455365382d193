/** Renders all that was asked for, file by file. */
import { encodePng } from '../codec/png';
import type { Progress } from '../piece/pieceFile';
import { TileCache } from '../strata/tileCache';
import type { DispatchOptions } from './options';
import { outputKind } from './outputs';
import { planDispatch, type PlannedFile } from './plan';
import type { RenderContext } from './render';

/** Holds all rules and masks of a sheet of 2048², so that each map after the first is quick. */
const DISPATCH_BYTES = 768 * 1024 * 1024;

export class DispatchError extends Error {}

/** Yields each file as it is done, so that the caller can show progress and stop. */
export async function* renderDispatch(
  given: RenderContext,
  options: DispatchOptions,
  progress?: Progress,
): AsyncGenerator<[string, Uint8Array]> {
  const context: RenderContext = { ...given, cache: given.cache ?? new TileCache(DISPATCH_BYTES) };
  const plan = planDispatch(context.piece, options);
  if (!plan.ok) throw new DispatchError(plan.message);
  for (const [done, file] of plan.files.entries()) {
    progress?.(done, plan.files.length, file.name);
    yield [file.name, await bytesOf(context, file, options)];
  }
}

async function bytesOf(context: RenderContext, { id, sheet }: PlannedFile, options: DispatchOptions): Promise<Uint8Array> {
  const kind = outputKind(id)!;
  if (kind.per === 'piece') return kind.file(context, options);
  return encodePng(await kind.picture(context, sheet!, id, options), kind.encoding?.(id));
}
