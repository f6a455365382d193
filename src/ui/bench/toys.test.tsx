/** A kind that is added to a registry is offered and set in the interface without a line of its own there. */
import '@/core/testing/toys';
import { fireEvent, render, screen } from '@testing-library/react';
import { Tooltip } from 'radix-ui';
import type { ReactNode } from 'react';
import { dispatchSchema } from '@/core/deliver/options';
import { newMask, newPaintedLayer, newPiece, newSheet } from '@/core/document/factory';
import { stepSchema, type Picture } from '@/core/document/schema';
import type { MapId } from '@/core/kinds/maps';
import { Options } from '../dispatch/Options';
import { BakeFields } from './bakes/BakeRow';
import { COMMANDS } from './keys/commands';
import { LayingSettings } from './areas/AreaBar';
import { layings } from './areas/laying';
import { FilterEditor } from './filters';
import { ToolControls } from './hand/Tools';
import { WritesPanel } from './hand/Writes';
import { SHAPE_MASKS } from './mask/byShape';
import { StepFields } from './recipe/StepFields';
import { stepUis } from './recipe/steps';
import { SourceEditor } from './sources/SourceEditor';
import { useBench } from './store';
import { HAND_TOOLS } from './keys/tools';

const toy = (type: string, level = 0.5) => ({ type, level }) as never;
const sheet = newSheet('s', 'Sheet', 256, 256, { maps: ['base-colour', 'toy-map' as MapId] });
sheet.layers = [newPaintedLayer('l', 'Hand', sheet.maps)];
sheet.masks = [newMask('m', 'Mask', 0)];
const piece = newPiece('p', 'P', 'canvas', [sheet]);
beforeEach(() => useBench.setState({ document: piece, sheetId: 's' }));

const show = (what: ReactNode) => render(<Tooltip.Provider>{what}</Tooltip.Provider>);
/** The only slider: to its end. */
const toEnd = (name: string) => fireEvent.keyDown(screen.getByRole('slider', { name }), { key: 'End' });

test('a source, an adjustment and a step are set by their controls', () => {
  const committed = jest.fn();
  const { unmount } = show(
    <SourceEditor
      made={toy('toy-source')}
      owner={{ kind: 'layer', layerId: 'l' }}
      onPreview={() => undefined}
      onCommit={committed}
    />,
  );
  toEnd('Level');
  expect(committed).toHaveBeenLastCalledWith({ type: 'toy-source', level: 1 }, 'Toy source: level');
  unmount();

  const filter = show(<FilterEditor filter={toy('toy-filter')} onPreview={() => undefined} onCommit={committed} />);
  toEnd('Level');
  expect(committed.mock.lastCall?.[0]).toEqual({ type: 'toy-filter', level: 1 });
  filter.unmount();

  const step = stepSchema.parse({ id: 'x', source: toy('toy-step') });
  show(
    <StepFields sheet={sheet} mask={sheet.masks[0]} step={step} source={step.source} show={() => undefined} set={committed} />,
  );
  toEnd('Level');
  expect(committed).toHaveBeenLastCalledWith({ type: 'toy-step', level: 1 }, 'level');
});

test.each([true, false])('a step is in the menu, on a model (%s) or a canvas', (onModel) => {
  const added: unknown[] = [];
  const adding = {
    sheet,
    mask: sheet.masks[0],
    layer: null,
    onModel,
    add: (s: unknown) => added.push(s),
    chooseRule: () => undefined,
  };
  const entry = stepUis()
    .flatMap((ui) => ui.entries(adding))
    .find((e) => e.label === 'Toy step, half')!;
  entry.onSelect();
  expect(added).toEqual([{ type: 'toy-step', level: 0.5 }]);
});

test('a step with a mask of its own is among the masks by shape', () => {
  expect(SHAPE_MASKS.map((m) => m.label)).toContain('Toy mask');
});

test('an area has its place in the bar and a command, and is set there', () => {
  expect(layings().map((l) => l.label)).toContain('Toy area');
  expect(COMMANDS.map((c) => c.label)).toContain('Lay: toy area');
  useBench.setState({ laying: 'toy-area' });
  show(<LayingSettings />);
  toEnd('Toy level');
  expect(useBench.getState().areas.toyLevel).toBe(1);
});

test('a tool is in the hand and set there', () => {
  expect(HAND_TOOLS.map((t) => t.label)).toContain('Toy tool');
  show(<ToolControls tool={'toy-tool' as never} />);
  fireEvent.keyDown(screen.getByRole('slider', { name: 'Level' }), { key: 'Home' });
  expect(useBench.getState().toolSettings).toMatchObject({ 'toy-tool': { level: 0 } });
});

test('a bake is set by its controls', () => {
  const picture = {
    ...{ id: 'b', name: 'Toy bake', width: 256, height: 256, encoding: 'linear' },
    bake: { settings: toy('toy-bake'), supersample: 1, twin: null, made: '', missed: 0 },
  } as unknown as Picture;
  show(<BakeFields sheet={sheet} picture={picture} />);
  expect(screen.getByRole('slider', { name: 'Level' }).getAttribute('aria-valuetext')).toBe('50 %');
});

test('a map is written by brushes and delivered; an output is offered', () => {
  const { unmount } = show(<WritesPanel />);
  expect(screen.getAllByText(/Toy/).length).toBeGreaterThan(0);
  unmount();
  const change = jest.fn();
  show(<Options piece={piece} options={dispatchSchema.parse({})} change={change} />);
  fireEvent.click(screen.getByLabelText('Toy map'));
  expect(change.mock.lastCall?.[0].maps).toContain('toy-map');
  fireEvent.click(screen.getByText('Toy output'));
  expect(change.mock.lastCall?.[0].maps).toContain('toy-output');
});
