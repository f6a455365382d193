/** Carries out a request that changes layers together with their pixels. */
import { findMask, findSheet, type Piece } from '../../core/document/schema';
import type { TileStore, TileVersion } from '../../core/tile/tiles';
import type { TileCache } from '../../core/strata/tileCache';
import { duplicateLayers, pasteLayers } from '../../core/document/work/copy';
import { takeBake, turnNormalY, type KeyedBake, type TakenBake } from '../../core/document/work/bakes';
import { addPictures, fillMask } from '../../core/document/work/fill';
import { mergeLayers } from '../../core/document/work/merge';
import { reshapeSheet } from '../../core/document/work/reshapeSheet';
import { WorkError, type Work } from '../../core/document/work/work';
import { mergedPaint } from '../../core/strata/merge';
import type { LayersRequest } from '../protocol';

/** What layers are changed with. */
export interface Workbench {
  readonly piece: Piece;
  readonly store: TileStore;
  readonly cache: TileCache;
  /** Tiles by their hashes, fetched where they are not here. */
  versionsOf(hashes: ReadonlySet<string>): Promise<ReadonlyMap<string, TileVersion>>;
  /** A bake with its tiles, fetched where it is not here. */
  bakeOf(taken: KeyedBake | TakenBake): Promise<[TakenBake, ReadonlyMap<string, TileVersion>]>;
}

export async function workOn(engine: Workbench, what: LayersRequest, { newId }: { newId: () => string }): Promise<Work> {
  const { store, cache } = engine;
  const sheet = findSheet(engine.piece, what.sheetId);
  const shortId = () => newId().slice(0, 13);
  switch (what.do) {
    case 'duplicate':
      return duplicateLayers(sheet, store, what.ids, shortId);
    case 'merge':
      return mergeLayers(sheet, what.how, what.ids, shortId, (ids, id) => mergedPaint(sheet, store, ids, id, cache));
    case 'paste': {
      const versions = await engine.versionsOf(new Set(what.clip.tiles.map(([, , hash]) => hash)));
      return pasteLayers(sheet, what.clip, what.place, versions, shortId);
    }
    case 'reshape':
      return reshapeSheet(sheet, store, what.by);
    case 'fill-mask': {
      const mask = findMask(sheet, what.maskId);
      if (!mask) throw new WorkError('The mask is not there any more');
      return fillMask(sheet, store, mask, what.value);
    }
    case 'take-bake':
      return takeBake(sheet, store, ...(await engine.bakeOf(what.taken)));
    case 'turn-normal-y':
      return turnNormalY(sheet, store, what.pictureId);
    case 'pictures':
      return addPictures(sheet, what.pictures, what.then, what.label, what.select);
  }
}
