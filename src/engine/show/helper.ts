/**
 * A helper evaluates tiles beside the engine, in a thread of its own: it has the document and sees the same
 * texels (in shared memory where there is any). Messages and answers are typed here; the threads themselves are
 * helper.worker.ts in the page and cli/bench/helperThread.ts in Node.
 */
import { joinMemory, type ThreadMemory } from '../../core/compute';
import type { MapId } from '../../core/kinds/maps';
import type { Sheet } from '../../core/document/schema';
import type { PlaneId } from '../../core/kinds/shown';
import { viewAt, type TexelPlace } from '../../core/tile/heap';
import { TileStore, WHOLE_TILE, type TileIndex } from '../../core/tile/tiles';
import { renderPlane, type Look } from '../../core/strata/displayPlanes';
import { tileTo16 } from '../../core/strata/evaluate';
import { Evaluator } from '../../core/strata/evaluator';
import { programOf } from '../../core/strata/program';
import type { Surface } from '../../core/mesh/surface';
import { giveSurfaces } from '../../core/strata/surfaceUnder';
import type { Signature } from '../../core/strata/signature';
import { TileCache } from '../../core/strata/tileCache';

/** A tile of a plane to be rendered by a helper, and what it will be made from. */
export interface DrawJob {
  sheetId: string;
  plane: PlaneId;
  tile: TileIndex;
  signature: Signature;
  look: Look | null;
}

export type HelperMessage =
  /** First of all, where memory is shared. */
  | ({ type: 'memory' } & ThreadMemory)
  /** What changed since the last time. Tiles without texels are gone. */
  | {
      type: 'sync';
      sheets: Sheet[] | null;
      tiles: [plane: string, tile: TileIndex, data: Uint16Array | TexelPlace | null][];
      /** The model under sheets, where the strata ask for it. */
      surfaces?: [sheetId: string, surface: Surface][];
    }
  | { type: 'draw'; id: number; jobs: DrawJob[]; hot: string | null }
  /** Whole tiles of maps as 16 bit into pictures in shared memory. */
  | {
      type: 'evaluate';
      id: number;
      sheetId: string;
      jobs: [map: MapId, tile: TileIndex][];
      hot: string | null;
      out: Partial<Record<MapId, Uint16Array>>;
    };
export interface HelperAnswer {
  id: number;
  drawn: Uint8Array<ArrayBuffer>[];
}

/** One end of a helper, wherever it runs. */
export interface HelperPort {
  post(message: HelperMessage): void;
  onAnswer: (answer: HelperAnswer) => void;
  /** It will never answer again. */
  onDeath: () => void;
}

/** A helper keeps nearly as much as the engine: with less than 96 MiB what lies around a tile of twenty layers is worked out twice. */
const HELPER_CACHE_BYTES = 128 * 1024 * 1024;

export class Helper {
  private memory: WebAssembly.Memory | null = null;
  private sheets: Sheet[] = [];
  private store = new TileStore();
  private cache = new TileCache(HELPER_CACHE_BYTES);
  private surfaces = new Map<string, Surface>();

  constructor() {
    giveSurfaces(this.store, ({ id, width, height }) => {
      const surface = this.surfaces.get(id);
      return surface?.width === width && surface.height === height ? surface : null;
    });
  }

  handle(message: HelperMessage): HelperAnswer | null {
    if (message.type === 'memory') {
      this.memory = message.memory;
      joinMemory(message);
      return null;
    }
    if (message.type === 'sync') {
      if (message.sheets) this.sheets = message.sheets;
      for (const [id, surface] of message.surfaces ?? []) this.surfaces.set(id, surface);
      for (const [plane, tile, sent] of message.tiles) {
        const data = sent === null || ArrayBuffer.isView(sent) ? sent : viewAt(this.memory!, sent);
        this.store.set(plane, tile, data ? { data, hash: null } : null);
      }
      return null;
    }
    if (message.type === 'evaluate') {
      const sheet = this.sheets.find((s) => s.id === message.sheetId)!;
      const evaluator = new Evaluator({ sheet, store: this.store, cache: this.cache, hot: message.hot });
      for (const [map, tile] of message.jobs)
        tileTo16(evaluator, programOf(sheet, map), tile, sheet.width, sheet.height, message.out[map]!);
      return { id: message.id, drawn: [] };
    }
    const evaluators = new Map<string, Evaluator>();
    const drawn = message.jobs.map((job) => {
      const sheet = this.sheets.find((s) => s.id === job.sheetId)!;
      let evaluator = evaluators.get(sheet.id);
      if (!evaluator) {
        evaluator = new Evaluator({ sheet, store: this.store, cache: this.cache, hot: message.hot });
        evaluators.set(sheet.id, evaluator);
      }
      return renderPlane(evaluator, sheet, job.plane, job.tile, WHOLE_TILE, job.look);
    });
    return { id: message.id, drawn };
  }
}
