/** Layers that come in. */
import { newId } from './ids';
import { hexToSrgb } from '@/core/colour/transfer';
import { freeName, newAdjustLayer, newCoatLayer, newEchoLayer, newPaintedLayer } from '@/core/document/factory';
import { LAYERS } from '@/core/kinds/layers';
import { COLOUR_MAP, mapKind, type MapId } from '@/core/kinds/maps';
import { mapOn, NORMAL_FROM } from '@/core/kinds/shown';
import { LIMITS, type Layer } from '@/core/document/schema';
import { whyUnmakeable, indexOfPlace, membersOf, type Place } from '@/core/document/tree';
import { FILTERS, type FilterType } from '@/core/kinds/filters';
import { currentLayer, currentSheet, edit, say, selectLayer, useBench } from '../store';
import { names } from './commands';

/** Above the selected layer, in its group. */
export function placeForNew(): Place {
  const selected = currentLayer();
  const sheet = currentSheet();
  if (!selected) return { parent: null, above: membersOf(sheet.layers, null).at(-1)?.id ?? null };
  return { parent: selected.parent, above: selected.id };
}

function add(layer: Layer): void {
  const sheet = currentSheet();
  if (sheet.layers.length >= LIMITS.maxLayers) return say(`A sheet holds up to ${LIMITS.maxLayers.toLocaleString('en')} layers.`);
  const place = placeForNew();
  const index = indexOfPlace(sheet.layers, place);
  edit({ type: 'add-layer', sheetId: sheet.id, index, layer: { ...layer, parent: place.parent } }, `Add ${layer.name}`);
  selectLayer(layer.id);
}

export function addLayer(kind: 'painted' | 'coat'): void {
  const sheet = currentSheet();
  const name = freeName(kind === 'painted' ? 'Painted' : 'Coat', names(sheet));
  const well = hexToSrgb(useBench.getState().wells[0]);
  add(
    kind === 'painted'
      ? newPaintedLayer(
          newId(),
          name,
          sheet.maps.filter((m) => mapKind(m) !== 'normal'),
        )
      : newCoatLayer(newId(), name, { [COLOUR_MAP]: well }, sheet.maps),
  );
}

export function addAdjust(type: FilterType): void {
  const sheet = currentSheet();
  const { view } = useBench.getState();
  const fits = sheet.maps.filter((m) => FILTERS[type].fits(mapKind(m)));
  // On the map that is looked at; lit, on colour.
  const wanted: MapId = view === 'lit' ? COLOUR_MAP : view;
  const on = fits.includes(wanted) ? wanted : fits[0];
  const layer = newAdjustLayer(newId(), freeName(FILTERS[type].label, names(sheet)), FILTERS[type].start, fits);
  layer.cells = Object.fromEntries(fits.map((m) => [m, { on: m === on }]));
  add(layer);
}

export function addEcho(): void {
  const original = currentLayer();
  const sheet = currentSheet();
  if (!original) return say('An echo repeats a layer or a group: choose one first.');
  if (!LAYERS[original.kind].byItself)
    return say(`"${original.name}" changes what lies below and has nothing of its own to echo: choose another layer.`);
  const from: MapId = sheet.maps.includes(COLOUR_MAP) ? COLOUR_MAP : sheet.maps[0];
  const { relief } = NORMAL_FROM;
  const to: MapId = sheet.maps.includes(relief) && from !== relief ? relief : mapOn('surface', 1);
  const layer = newEchoLayer(newId(), freeName(`Echo of ${original.name}`.slice(0, 110), names(sheet)), original.id, from, []);
  layer.cells = Object.fromEntries(sheet.maps.map((m) => [m, { on: m === to }]));
  if (to === relief)
    // Colour detail around the middle becomes gentle relief.
    layer.echo!.filters = [{ type: 'levels', black: 0, white: 1, gamma: 1, outBlack: 0.4, outWhite: 0.6 }];
  const around = [...sheet.layers, { ...layer, parent: original.parent }];
  const fault = whyUnmakeable(around, sheet.masks);
  if (fault) return say(`That cannot be: ${fault}.`);
  add(layer);
}
