/** While a stroke is being painted, React renders nothing. */
import { expect, test, type Page } from '@playwright/test';
import { makeCanvas, makeCube, still } from './helpers';

/**
 * React tells a hook of each commit, also in the build that is served. As its developer tools do, the fibers of the new tree are compared with
 * those before: the components that rendered, each by what it shows. As text: the loader of this file adds helpers to functions that pages do
 * not know.
 */
const WATCH = `
  window.brindleRendered = [];
  const RENDERED = 1;
  const COMPONENTS = new Set([0, 1, 11, 14, 15]);
  const HOST = 5;
  const below = (fiber) => {
    for (let f = fiber; f; f = f.child) if (f.tag === HOST) return f.stateNode;
    return null;
  };
  // A component without an element of its own, such as a closed popover, is named after the component around it.
  const hostOf = (fiber) => {
    for (let f = fiber; f; f = f.return) if (below(f)) return below(f);
    return null;
  };
  const nameOf = (element) => {
    if (!element) return '?';
    const named = element.closest('[data-testid], [aria-label]');
    return named ? named.dataset.testid || named.getAttribute('aria-label') : element.tagName;
  };
  const visit = (next, before, found) => {
    if (COMPONENTS.has(next.tag) && (!before || next.flags & RENDERED)) found.push(nameOf(hostOf(next)));
    if (before && next.child === before.child) return;
    for (let child = next.child; child; child = child.sibling) visit(child, child.alternate, found);
  };
  window.__REACT_DEVTOOLS_GLOBAL_HOOK__ = {
    supportsFiber: true,
    inject: () => 1,
    onCommitFiberUnmount: () => {},
    onPostCommitFiberRoot: () => {},
    onCommitFiberRoot: (id, root) => {
      const found = [];
      visit(root.current, root.current.alternate, found);
      window.brindleRendered.push(found);
    },
  };
`;

/** Not counted: the badge, which says whether what was painted is saved, may change at any time. */
const BADGE = new Set(['kept']);

async function rendered(page: Page): Promise<string[]> {
  const commits = (await page.evaluate('window.brindleRendered')) as string[][];
  return commits.flat().filter((name) => !BADGE.has(name));
}

/** A stroke of `samples` moves across a pane; what is rendered between its second and its last. */
async function renderedDuring(page: Page, pane: 'model' | 'flat', samples: number): Promise<string[]> {
  const box = (await page.getByTestId(`pane-${pane}`).boundingBox())!;
  const at = (n: number) =>
    [box.x + box.width * (0.3 + (0.4 * n) / samples), box.y + box.height * (0.5 + 0.1 * Math.sin(n / 9))] as const;
  await page.mouse.move(...at(0));
  await page.mouse.down();
  await page.mouse.move(...at(1));
  await still(page);
  await page.evaluate('window.brindleRendered.length = 0');
  for (let n = 2; n <= samples; n++) await page.mouse.move(...at(n));
  await still(page);
  const found = await rendered(page);
  await page.mouse.up();
  return found;
}

test('React renders nothing but the badge during a stroke of 200 samples, in either pane', async ({ page }) => {
  await page.addInitScript(WATCH);
  await makeCube(page, 'Quiet cube');
  // The watch sees what there is to see.
  await page.getByRole('button', { name: 'front', exact: true }).click();
  await still(page);
  expect((await rendered(page)).length).toBeGreaterThan(0);
  expect(await renderedDuring(page, 'model', 200)).toEqual([]);
  expect(await renderedDuring(page, 'flat', 200)).toEqual([]);
});

test('the same with guides and a mirror over the panes', async ({ page }) => {
  await page.addInitScript(WATCH);
  await makeCanvas(page, 'Quiet canvas');
  await page.getByRole('button', { name: 'Guides' }).click();
  await page.getByLabel('Show').selectOption('square');
  await page.keyboard.press('Escape');
  await page.getByTestId('pane-flat').focus();
  await page.keyboard.press('y');
  await still(page);
  await expect(page.getByTestId('guides')).toBeVisible();
  await expect(page.getByTestId('mirror-planes').first()).toBeVisible();
  expect(await renderedDuring(page, 'flat', 60)).toEqual([]);
});
