/** The page’s end of first tries of bakes (bake.worker.ts): the newest counts, older ones are given up. */
import type { Fit } from '../../core/bake/fit';
import type { BakeSpec } from '../../core/kinds/bakes/spec';
import type { Model } from '../../core/mesh/model';
import type { Geometry } from '../protocol';

export type TryRequest =
  /** Where pictures go. */
  | { type: 'engine'; port: MessagePort }
  | { type: 'model'; address: string; model: Model }
  | { type: 'try' | 'fit' | 'parts'; id: number; spec: BakeSpec }
  /** Made ready before anything is asked: what a try of this spec hangs on. */
  | { type: 'ready'; spec: BakeSpec };
export type TryAnswer =
  /** The engine has the picture. `rougher`: a finer one follows. */
  | { id: number; width: number; height: number; missed: number; rougher: boolean }
  | { id: number; fit: Fit | null }
  | { id: number; parts: string[] }
  | { id: number; message: string };

export type Tried = Extract<TryAnswer, { rougher: boolean }>;

export class BakeTry {
  private worker: Worker | null = null;
  private known = '';
  private id = 0;
  /** `connect` gives the engine a port from which it gets the pictures of tries. */
  constructor(private connect: (port: MessagePort) => void) {}

  private waiting: { id: number; resolve: (a: TryAnswer | null) => void; show: (tried: Tried) => void } | null = null;

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

  /** Makes ready what tries of a model hang on, so that the first one is there sooner. */
  warm(spec: BakeSpec, geometry: Geometry): void {
    this.ready(spec, geometry).postMessage({ type: 'ready', spec: { ...spec, uvSet: 0 } } satisfies TryRequest);
  }

  /** Shows a small picture and then a finer one; none where something newer is asked for. Rejects with a sentence. */
  async ask(
    spec: BakeSpec,
    geometry: Geometry,
    /** Told the number of the try before it is made: the engine shows it when it comes. */
    expect: (id: number) => void,
    show: (tried: Tried) => void,
  ): Promise<void> {
    const worker = this.ready(spec, geometry);
    this.waiting?.resolve(null);
    const id = ++this.id;
    const answer = await new Promise<TryAnswer | null>((resolve) => {
      this.waiting = { id, resolve, show };
      expect(id);
      // The page has only the UVs that are painted on: they are the first there.
      worker.postMessage({ type: 'try', id, spec: { ...spec, uvSet: 0 } } satisfies TryRequest);
    });
    if (answer && 'message' in answer) throw new Error(answer.message);
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
    const { port1, port2 } = new MessageChannel();
    worker.postMessage({ type: 'engine', port: port1 } satisfies TryRequest, [port1]);
    this.connect(port2);
    worker.onmessage = ({ data }: MessageEvent<TryAnswer>) => {
      const asked = this.asked.get(data.id);
      if (asked) {
        this.asked.delete(data.id);
        return asked(data);
      }
      if (data.id !== this.waiting?.id) return;
      const { resolve, show } = this.waiting;
      if ('rougher' in data) show(data);
      if ('rougher' in data && data.rougher) return;
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
