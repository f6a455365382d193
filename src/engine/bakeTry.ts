/** The page’s end of first tries of bakes (bake.worker.ts): the newest counts, older ones are given up. */
import type { Fit } from '../core/bake/fit';
import type { BakeSpec } from '../core/kinds/bakes/spec';
import type { Model } from '../core/mesh/model';
import type { Geometry } from './protocol';

export type TryRequest =
  { type: 'model'; address: string; model: Model } | { type: 'try' | 'fit' | 'parts'; id: number; spec: BakeSpec };
export type TryAnswer =
  | { id: number; width: number; height: number; data: Uint16Array<ArrayBuffer>; missed: number }
  | { id: number; fit: Fit | null }
  | { id: number; parts: string[] }
  | { id: number; message: string };

/** Longest side of a first try, and its samples at most. */
export const TRY_SIDE = 256;
export const TRY_SAMPLES = 12;

/** The same bake, small and rough. Lengths in it are shares of the model: they stay. */
export function roughly(spec: BakeSpec): BakeSpec {
  const scale = Math.min(1, TRY_SIDE / Math.max(spec.width, spec.height));
  const side = (n: number) => Math.max(16, Math.round(n * scale));
  const { settings } = spec;
  const samples = 'samples' in settings ? { samples: Math.min(settings.samples, TRY_SAMPLES) } : {};
  return { ...spec, width: side(spec.width), height: side(spec.height), supersample: 1, settings: { ...settings, ...samples } };
}

export class BakeTry {
  private worker: Worker | null = null;
  private known = '';
  private id = 0;
  private waiting: { id: number; resolve: (a: TryAnswer | null) => void } | null = null;

  /** How a dense model would lie on its model. Rejects with a sentence. */
  async fit(spec: BakeSpec, geometry: Geometry): Promise<Fit | null> {
    const answer = await this.question('fit', spec, geometry);
    return answer && 'fit' in answer ? answer.fit : null;
  }

  /** Names of the dense model's parts. Rejects with a sentence. */
  async parts(spec: BakeSpec, geometry: Geometry): Promise<string[]> {
    const answer = await this.question('parts', spec, geometry);
    return answer && 'parts' in answer ? answer.parts : [];
  }

  private async question(type: 'fit' | 'parts', spec: BakeSpec, geometry: Geometry): Promise<TryAnswer | null> {
    const worker = this.ready(spec, geometry);
    const id = ++this.id;
    const answer = await new Promise<TryAnswer | null>((resolve) => {
      this.asked.set(id, resolve);
      worker.postMessage({ type, id, spec: { ...spec, uvSet: 0 } } satisfies TryRequest);
    });
    if (answer && 'message' in answer) throw new Error(answer.message);
    return answer;
  }
  private asked = new Map<number, (a: TryAnswer | null) => void>();

  /** A worker that has the model. */
  private ready(spec: BakeSpec, geometry: Geometry): Worker {
    const worker = (this.worker ??= this.begin());
    if (this.known !== spec.model) {
      const { positions, normals, uv, indices, facePart, faceMaterial, parts } = geometry;
      const model: Model = {
        ...{ positions, normals, uvs: [uv], indices, facePart, faceMaterial, parts },
        ...{ materials: [], fileVertices: positions.length / 3, notes: [] },
      };
      worker.postMessage({ type: 'model', address: spec.model, model } satisfies TryRequest);
      this.known = spec.model;
    }
    return worker;
  }

  /** null: something newer was asked for. Rejects with a sentence. */
  async ask(spec: BakeSpec, geometry: Geometry): Promise<Extract<TryAnswer, { data: unknown }> | null> {
    const worker = this.ready(spec, geometry);
    this.waiting?.resolve(null);
    const id = ++this.id;
    const answer = await new Promise<TryAnswer | null>((resolve) => {
      this.waiting = { id, resolve };
      // The page has only the UVs that are painted on: they are the first there.
      worker.postMessage({ type: 'try', id, spec: { ...spec, uvSet: 0 } } satisfies TryRequest);
    });
    if (answer && 'message' in answer) throw new Error(answer.message);
    return answer && 'data' in answer ? answer : null;
  }

  end(): void {
    this.worker?.terminate();
    this.worker = null;
    this.known = '';
    this.waiting?.resolve(null);
    this.waiting = null;
    for (const resolve of this.asked.values()) resolve(null);
    this.asked.clear();
  }

  private begin(): Worker {
    const worker = new Worker(new URL('./bake.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<TryAnswer>) => {
      const asked = this.asked.get(data.id);
      if (asked) {
        this.asked.delete(data.id);
        return asked(data);
      }
      if (data.id !== this.waiting?.id) return;
      const { resolve } = this.waiting;
      this.waiting = null;
      resolve(data);
    };
    worker.onerror = () => {
      const { waiting } = this;
      this.waiting = null;
      this.end();
      waiting?.resolve({ id: waiting.id, message: 'The first try of the bake failed: change a setting to try again.' });
    };
    return worker;
  }
}
