/** ./brindle prove PIECE|FILE.brindle [--json] [--limits FILE] [--pictures DIR]: exit code 1 where a figure is above its limit. */
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { encodePng } from '../src/core/codec/png';
import { fileSafe } from '../src/core/text';
import { METERS } from '../src/core/proof/meters';
import { prove, type Finding } from '../src/core/proof/prove';
import { BadInput, callerPath, parseCommand, readInput } from './badInput';
import { loadPiece, sayLost } from './pieceInput';

const text = { type: 'string' } as const;

export async function run(args: string[]): Promise<void> {
  const { values, positionals } = parseCommand(args, { json: { type: 'boolean' }, limits: text, pictures: text }, [
    'a PIECE or a FILE.brindle',
  ]);
  const limits = values.limits === undefined ? {} : readLimits(await readInput(values.limits), values.limits);
  const loaded = await loadPiece(positionals[0]);
  const findings: object[] = [];
  let passed = true;
  for (const finding of prove(loaded, limits)) {
    passed &&= finding.passed;
    if (values.pictures !== undefined) await writePicture(values.pictures, finding);
    if (values.json) findings.push(asJson(finding));
    else process.stdout.write(told(finding));
  }
  if (values.json) process.stdout.write(`${JSON.stringify({ piece: loaded.piece.name, passed, findings }, null, 2)}\n`);
  sayLost(loaded);
  if (!passed) process.exitCode = 1;
}

function readLimits(bytes: Uint8Array, path: string): Record<string, number> {
  let raw: unknown;
  try {
    raw = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  } catch {
    raw = null;
  }
  if (typeof raw !== 'object' || raw === null || Array.isArray(raw))
    throw new BadInput(`${path} holds no limits: write a JSON object such as { "${METERS[0].id}": 1 }.`);
  for (const [id, limit] of Object.entries(raw)) {
    if (!METERS.some((m) => m.id === id))
      throw new BadInput(`${path} names a meter "${id}", which there is not: there are ${METERS.map((m) => m.id).join(', ')}.`);
    if (typeof limit !== 'number' || !(limit >= 0))
      throw new BadInput(`${path} limits ${id} to ${JSON.stringify(limit)}: write a number from 0 on.`);
  }
  return raw as Record<string, number>;
}

const asJson = ({ meter, sheet, map, figure, limit, passed, places }: Finding) => ({
  ...{ meter: meter.id, label: meter.label, sheet, map, figure, unit: meter.unit, limit, passed, places },
  ...(!passed && meter.remedy ? { remedy: meter.remedy } : {}),
});

function told({ meter, sheet, map, figure, limit, passed, places }: Finding): string {
  const amount = (v: number) => `${Number(v.toPrecision(3))} ${meter.unit}`;
  const head = `${passed ? 'ok   ' : 'ABOVE'} ${meter.label}, ${sheet.name}, ${map.label}: ${amount(figure)} (limit ${amount(limit)})\n`;
  if (passed) return head;
  const lines = places
    .slice(0, 5)
    .map(
      ({ x0, y0, x1, y1, texels, part }) => `      ${texels} texels in ${x0}, ${y0} – ${x1}, ${y1}${part ? ` on ${part}` : ''}\n`,
    );
  return `${head}${lines.join('')}${meter.remedy ? `      ${meter.remedy}\n` : ''}`;
}

async function writePicture(folder: string, { meter, sheet, map, picture }: Finding): Promise<void> {
  const path = join(callerPath(folder), `${fileSafe(`${sheet.name}_${meter.id}_${map.label}`)}.png`);
  try {
    await mkdir(callerPath(folder), { recursive: true });
    await writeFile(path, encodePng(picture));
  } catch (error) {
    throw new BadInput(`${path} cannot be written (${(error as NodeJS.ErrnoException).code}): choose another folder.`);
  }
}
