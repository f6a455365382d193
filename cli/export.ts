/** ./brindle export PIECE|FILE.brindle --out DIR [options] */
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { dispatchSchema, OUTPUTS_AT_START } from '../src/core/deliver/options';
import { GLB } from '../src/core/deliver/outputs/glb';
import { renderDispatch } from '../src/core/deliver/dispatch';
import { planDispatch } from '../src/core/deliver/plan';
import { LOST_FILE, lostTiles } from '../src/core/deliver/lost';
import { BadInput, callerPath, parseCommand } from './badInput';
import { loadPiece, sayLost } from './pieceInput';

const text = { type: 'string' } as const;

export async function run(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(
    args,
    {
      out: text,
      maps: text,
      sheets: text,
      divide: text,
      bits: text,
      'normal-y': text,
      margin: text,
      pattern: text,
      glb: { type: 'boolean' },
      dither: { type: 'boolean' },
    },
    ['a PIECE or a FILE.brindle'],
  );
  if (!values.out) throw new BadInput('Say where to write: --out DIR.');
  const loaded = await loadPiece(positionals[0]);
  const sheets = values.sheets?.split(',').map((wanted) => {
    const sheet = loaded.piece.sheets.find((s) => s.id === wanted || s.name.toLowerCase() === wanted.toLowerCase());
    if (!sheet)
      throw new BadInput(`There is no sheet "${wanted}": there are ${loaded.piece.sheets.map((s) => `"${s.name}"`).join(', ')}.`);
    return sheet.id;
  });
  const number = (v: string | undefined) => (v === undefined ? undefined : Number(v));
  const parsed = dispatchSchema.safeParse({
    sheets,
    maps: [...(values.maps?.split(',') ?? OUTPUTS_AT_START), ...(values.glb ? [GLB] : [])],
    divide: number(values.divide),
    bits: number(values.bits),
    normalY: values['normal-y'],
    margin: number(values.margin),
    pattern: values.pattern,
    dither: values.dither,
  });
  if (!parsed.success) {
    const at = String(parsed.error.issues[0].path[0]);
    const allowed: Record<string, string> = {
      divide: '1, 2, 4 or 8',
      bits: '8 or 16',
      normalY: 'up or down',
      margin: 'a whole number from 0 to 64',
      pattern: '1 to 120 characters',
    };
    throw new BadInput(`The option ${at === 'normalY' ? 'normal-y' : at} takes ${allowed[at] ?? 'another value'}.`);
  }
  // Before a folder is made.
  const plan = planDispatch(loaded.piece, parsed.data);
  if (!plan.ok) throw new BadInput(plan.message);
  const folder = callerPath(values.out);
  try {
    await mkdir(folder, { recursive: true });
    for await (const [name, bytes] of renderDispatch(loaded, parsed.data)) {
      await writeFile(join(folder, name), bytes);
      process.stdout.write(`${join(values.out, name)}\n`);
    }
    const lost = lostTiles(loaded.piece, loaded.store);
    if (lost) await writeFile(join(folder, LOST_FILE), lost.report);
    sayLost(loaded);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'EEXIST' || code === 'ENOTDIR' || code === 'EACCES')
      throw new BadInput(`${values.out} cannot be written to (${code}): choose another folder.`);
    throw error;
  }
}
