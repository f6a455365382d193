/** ./brindle flatten FILE.brindle --map MAP [--sheet NAME] [--size N] [--bits 8|16] --out x.png */
import { writeFile } from 'node:fs/promises';
import { encodePng } from '../src/core/codec/png';
import { offersOf, outputKind } from '../src/core/deliver/outputs';
import { COLOUR_MAP } from '../src/core/kinds/maps';
import { BadInput, callerPath, parseCommand } from './badInput';
import { loadPieceFile } from './pieceInput';

const text = { type: 'string' } as const;

export async function run(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, { map: text, sheet: text, size: text, bits: text, out: text }, [
    'FILE.brindle',
  ]);
  if (!values.out) throw new BadInput('Say where to write: --out x.png.');
  const bits = Number(values.bits ?? 8);
  if (bits !== 8 && bits !== 16) throw new BadInput(`--bits is "${values.bits}", but has to be 8 or 16.`);
  const { piece, store, model } = await loadPieceFile(positionals[0]);
  const map = values.map ?? COLOUR_MAP;
  const there = offersOf(piece, 'sheet').map((o) => o.id);
  const kind = outputKind(map);
  if (kind?.per !== 'sheet' || !there.includes(map))
    throw new BadInput(`There is no map "${map}": there are ${there.join(', ')}.`);
  const sheet =
    values.sheet === undefined ? piece.sheets[0] : piece.sheets.find((s) => s.id === values.sheet || s.name === values.sheet);
  if (!sheet)
    throw new BadInput(`There is no sheet "${values.sheet}": there are ${piece.sheets.map((s) => `"${s.name}"`).join(', ')}.`);
  const size = Number(values.size ?? Math.max(sheet.width, sheet.height));
  if (!Number.isInteger(size) || size < 1 || size > 16384)
    throw new BadInput(`--size is "${values.size}", but has to be a whole number from 1 to 16384 (the longer side).`);
  const divide = Math.max(sheet.width, sheet.height) / size;
  const picture = await kind.picture({ piece, store, model }, sheet, map, { divide, bits, normalY: 'up', margin: 16 });
  await writeFile(callerPath(values.out), encodePng(picture, kind.encoding?.(map)));
}
