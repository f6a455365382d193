/** A brush in words: what its lines say, one by one and all together. */
import type { Brush } from '@/core/hand/brush';
import { DITHERS } from '@/core/hand/dither';
import { MIRROR_AXES, type Mirror } from '@/core/hand/mirror';
import { DRIVERS, VARIED, type Vary } from '@/core/hand/vary';

const SHORT = { diameters: 'diameters', millimetres: 'mm', texels: 'texels' } as const;
const figure = (v: number) => String(Number(v.toFixed(v < 10 ? 1 : 0)));
const percent = (v: number) => `${Math.round(v * 100)} %`;
/** Lengths from ten millimetres on are said in centimetres. */
const lengthOf = ({ over, unit }: Vary) =>
  unit === 'millimetres' && over >= 10 ? `${figure(over / 10)} cm` : `${figure(over)} ${SHORT[unit]}`;

/** By what, as it stands within a sentence. */
const BY: Record<Vary['by'], string> = {
  pressure: 'by pressure',
  tilt: 'by tilt',
  'tilt-direction': 'by where the pen leans',
  direction: 'by the stroke’s direction',
  speed: 'by speed',
  length: 'along the stroke',
  dab: 'each dab',
  stroke: 'each stroke',
};

/** What a line says of its thing, without naming it: "by pressure", "± 15 % each dab", "to nothing over 6 cm". */
export function lineWords(line: Vary): string {
  const { what, by, amount } = line;
  const { kind } = VARIED[what];
  const driver = DRIVERS[by] as { chance?: boolean; direction?: boolean };
  const size = Math.abs(amount);
  if (kind === 'share') {
    if (driver.chance) return `± ${percent(size)} ${BY[by]}`;
    const end = size >= 1 ? 'nothing' : percent(1 - size);
    if (by === 'length') return `${amount < 0 ? 'to' : 'from'} ${end} over ${lengthOf(line)}`;
    if (amount < 0) return `down to ${end} ${BY[by]}`;
    return size >= 1 ? BY[by] : `from ${end} ${BY[by]}`;
  }
  if (kind === 'mix') {
    const much = `${size >= 1 ? '' : `${percent(size)} `}${amount < 0 ? 'from' : 'to'} the second well`;
    if (driver.chance) return `up to ${much} ${BY[by]}`;
    return by === 'length' ? `${much} over ${lengthOf(line)}` : `${much} ${BY[by]}`;
  }
  if (kind === 'turn' && driver.direction) return by === 'direction' ? 'follows the stroke' : 'follows the pen’s lean';
  const much = kind !== 'shift' ? `${figure(size)}°` : `${figure(size)} diameters`;
  if (driver.chance) return `± ${much} ${BY[by]}`;
  const signed = amount < 0 ? `−${much}` : much;
  return by === 'length' ? `to ${signed} over ${lengthOf(line)}` : `up to ${signed} ${BY[by]}`;
}

/** "Square, on the texel grid, thin paint in rows." */
function tipWords({ grid, dither }: Brush['tip'], outline: string): string {
  const words = [
    outline,
    grid ? 'on the texel grid' : '',
    grid && dither ? `dithered (${DITHERS[dither].label.toLowerCase()})` : '',
  ];
  const said = words.filter(Boolean).join(', ');
  return `${said[0].toUpperCase()}${said.slice(1)}.`;
}

/** "Size by pressure, ± 15 % each dab. Angle follows the stroke." Nothing varies: that is said too. */
export function brushSentence({ vary, tip }: Pick<Brush, 'vary' | 'tip'>): string {
  const outline = tip.shape === 'square' ? 'Square' : tip.roundness < 1 ? 'Oval' : '';
  const things = [...new Set(vary.map((line) => line.what))].map((what) => {
    const words = vary.filter((line) => line.what === what).map(lineWords);
    return `${what === 'mix' ? 'Colour' : VARIED[what].label} ${words.join(', ')}.`;
  });
  const said = [...(outline || tip.grid ? [tipWords(tip, outline)] : []), ...things];
  return said.length > 0 ? said.join(' ') : 'The same in every dab.';
}

/** "Across X and Y, 6 times around Y." */
export function mirrorSentence({ axes, radial, around }: Mirror, canvas: boolean): string {
  const planes = MIRROR_AXES.filter((a) => axes.includes(a) && !(canvas && a === 'z')).map((a) => a.toUpperCase());
  const across = planes.length ? `Across ${planes.join(' and ')}` : '';
  const turns = radial > 1 ? `${radial} times around ${canvas ? 'the middle' : around.toUpperCase()}` : '';
  return across || turns ? `${[across, turns].filter(Boolean).join(', ')}.` : 'Nothing is mirrored.';
}
