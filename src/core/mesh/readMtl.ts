/** Materials of an OBJ file (Wavefront MTL; Pr, Pm and norm as its common extension for physically based shading has them). */
import { srgbToLinear } from '../colour/transfer';
import { namedPicture } from './companions';
import type { ModelMaterial, ModelPicture } from './model';
import { plainMaterial } from './modelBuilder';
import { ObjText } from './objText';

export type FindFile = (path: string) => Uint8Array | undefined;

/** How many words follow an option of a picture, at most. */
const OPTIONS: Record<string, number> = { '-o': 3, '-s': 3, '-t': 3, '-mm': 2 };

export function readMtl(bytes: Uint8Array, find: FindFile, into: Map<string, ModelMaterial>, notes: string[]): void {
  const text = new ObjText(bytes);
  let material: ModelMaterial | null = null;
  /** The colour is the picture's alone unless it is named. */
  let named = false;
  const picture = (): ModelPicture | null => {
    const path = pathOf(text.rest());
    const found = find(path);
    if (!found) notes.push(`The picture "${path}" is missing: drop it together with the model to have it as a layer.`);
    return found ? namedPicture(path, found) : null;
  };
  const colour = (): [number, number, number] | null => {
    const [r, g = r, b = r] = [text.number(), text.number(), text.number()].map((v, i, all) => (Number.isNaN(v) ? all[0] : v));
    return [r, g, b].every(Number.isFinite) ? [r, g, b] : null;
  };
  const seen = (v: number) => {
    if (!material || !Number.isFinite(v)) return;
    material.baseColourLinear[3] = Math.min(1, Math.max(0, v));
    material.seeThrough = v < 1;
  };
  for (let word = text.nextLine(); word !== null; word = text.nextLine()) {
    if (word === 'newmtl') {
      material = plainMaterial(text.rest());
      named = false;
      into.set(material.name, material);
      continue;
    }
    if (!material) continue;
    switch (word.toLowerCase()) {
      case 'kd': {
        const kd = colour();
        if (kd)
          material.baseColourLinear = [
            srgbToLinear(kd[0]),
            srgbToLinear(kd[1]),
            srgbToLinear(kd[2]),
            material.baseColourLinear[3],
          ];
        named = kd !== null;
        break;
      }
      case 'ke': {
        const ke = colour();
        if (ke) material.emissiveLinear = [srgbToLinear(ke[0]), srgbToLinear(ke[1]), srgbToLinear(ke[2])];
        break;
      }
      case 'd':
        seen(text.number());
        break;
      case 'tr':
        seen(1 - text.number());
        break;
      case 'pr':
        material.roughness = share(text.number(), material.roughness);
        break;
      case 'pm':
        material.metallic = share(text.number(), material.metallic);
        break;
      case 'map_kd':
        material.baseColourPicture = picture();
        if (!named) material.baseColourLinear = [1, 1, 1, material.baseColourLinear[3]];
        break;
      case 'map_ke':
        material.emissivePicture = picture();
        if (material.emissiveLinear.every((v) => v === 0)) material.emissiveLinear = [1, 1, 1];
        break;
      case 'norm':
        material.normalPicture = picture();
        break;
    }
  }
}

const share = (v: number, otherwise: number): number => (Number.isFinite(v) ? Math.min(1, Math.max(0, v)) : otherwise);

/** A picture's file name, which may have blanks in it, behind its options. */
function pathOf(rest: string): string {
  const words = rest.split(/\s+/);
  let at = 0;
  while (at < words.length - 1 && words[at].startsWith('-')) {
    const most = OPTIONS[words[at]] ?? 1;
    at++;
    for (let n = 0; n < most && at < words.length - 1 && (most === 1 || /^[-+.\d]/.test(words[at])); n++) at++;
  }
  return at === 0 ? rest : words.slice(at).join(' ');
}
