/** @jest-environment jsdom */
import { fireEvent, render, screen } from '@testing-library/react';
import { Menu, MenuCheck, MenuItem, MenuLabel } from './Menu';
import { Popup } from './Popup';

const open = (name: string) => fireEvent.keyDown(screen.getByRole('button', { name }), { key: 'Enter' });

test('a menu opens by key; an item runs and closes it, a check runs and leaves it open', () => {
  const [run, check, drop] = [jest.fn(), jest.fn(), jest.fn()];
  render(
    <Menu trigger={<button type="button">Lantern</button>}>
      <MenuLabel>Layers</MenuLabel>
      <MenuCheck checked={false} onChange={check}>
        Brass
      </MenuCheck>
      <MenuItem onSelect={run} onDelete={drop}>
        Merge
      </MenuItem>
    </Menu>,
  );
  expect(screen.queryByRole('menu')).toBeNull();
  open('Lantern');
  fireEvent.click(screen.getByRole('menuitemcheckbox', { name: 'Brass' }));
  expect(check).toHaveBeenCalledWith(true);
  fireEvent.keyDown(screen.getByRole('menuitem', { name: 'Merge' }), { key: 'Delete' });
  expect(drop).toHaveBeenCalledTimes(1);
  fireEvent.click(screen.getByRole('menuitem', { name: 'Merge' }));
  expect(run).toHaveBeenCalledTimes(1);
  expect(screen.queryByRole('menu')).toBeNull();
});

test.each([true, false])('a popup keeps keys to itself except Escape, which closes it (beside the panes: %s)', (beside) => {
  const outer = jest.fn();
  render(
    <div onKeyDown={(e) => outer(e.key)}>
      <Popup label="Guides" beside={beside} trigger={<button type="button">Open</button>}>
        <input aria-label="Cells" />
      </Popup>
    </div>,
  );
  fireEvent.click(screen.getByRole('button', { name: 'Open' }));
  const box = screen.getByRole('dialog', { name: 'Guides' });
  expect(box.hasAttribute('data-beside')).toBe(beside);
  if (beside) expect(document.activeElement).toBe(box);
  fireEvent.keyDown(screen.getByLabelText('Cells'), { key: 'x' });
  expect(outer).not.toHaveBeenCalled();
  fireEvent.keyDown(screen.getByLabelText('Cells'), { key: 'Escape' });
  expect(screen.queryByRole('dialog')).toBeNull();
});
