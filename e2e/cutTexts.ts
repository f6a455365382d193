/** Texts that a page shows only in part: labels, values and selects whose box is too narrow. */
import type { Page } from '@playwright/test';

/**
 * Runs in the page, on the elements that `within` selects. A name that the user chose (marked with `data-name`) may be cut if a `title`
 * around it has all of it.
 */
const FIND = (within: string): string[] => {
  const out: string[] = [];
  const shown = (e: Element) => {
    const r = e.getBoundingClientRect();
    return r.width > 1 && r.height > 1 && e.checkVisibility({ opacityProperty: true, visibilityProperty: true });
  };
  const tell = (e: Element, text: string, by: number) => {
    const near = e.closest('[aria-label]')?.getAttribute('aria-label') ?? '';
    out.push(`"${text.trim().slice(0, 60)}" lacks ${Math.ceil(by)} px (${e.tagName.toLowerCase()}${near ? `, ${near}` : ''})`);
  };
  const clips = (style: CSSStyleDeclaration) => style.overflowX === 'hidden' || style.overflowX === 'clip';
  for (const root of document.querySelectorAll(within))
    for (const e of [root, ...root.querySelectorAll('*')]) {
      if (!shown(e)) continue;
      const tip = e.closest('[data-name]')?.closest('[title]')?.getAttribute('title');
      if (tip?.includes(e.textContent ?? '')) continue;
      if (e instanceof HTMLSelectElement) {
        // As wide as its chosen option alone would make it.
        const copy = e.cloneNode(false) as HTMLSelectElement;
        const option = e.selectedOptions[0];
        if (!option) continue;
        copy.append(option.cloneNode(true));
        copy.style.cssText = 'position:absolute;visibility:hidden;width:max-content;min-width:0;max-width:none;flex:none';
        e.parentElement!.append(copy);
        const lacks = copy.getBoundingClientRect().width - e.getBoundingClientRect().width;
        copy.remove();
        if (lacks > 1) tell(e, option.text, lacks);
        continue;
      }
      if (e instanceof HTMLInputElement && ['text', 'number', ''].includes(e.type) && !e.matches(':focus')) {
        if (e.scrollWidth > e.clientWidth + 1) tell(e, e.value, e.scrollWidth - e.clientWidth);
        continue;
      }
      for (const node of e.childNodes) {
        if (node.nodeType !== Node.TEXT_NODE || !node.textContent!.trim()) continue;
        const range = document.createRange();
        range.selectNodeContents(node);
        const text = range.getBoundingClientRect();
        if (text.width < 2) continue;
        for (let box: Element | null = e; box && box !== document.body; box = box.parentElement) {
          const style = getComputedStyle(box);
          const r = box.getBoundingClientRect();
          if (r.width <= 1 || r.height <= 1) break;
          if (style.overflowX === 'auto' || style.overflowX === 'scroll') break;
          if (!clips(style)) continue;
          const lacks = Math.max(text.right - r.right, r.left - text.left);
          if (lacks > 1) {
            tell(e, node.textContent!, lacks);
            break;
          }
        }
      }
    }
  return out;
};

export const cutTexts = (page: Page, within = 'body'): Promise<string[]> => page.evaluate(FIND, within);
