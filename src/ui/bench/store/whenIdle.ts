/** Milliseconds without a change after which the hand is saved: a slider under the pen changes at every event. */
const SAVE_AFTER_MS = 300;

/** Saves once changes have come to rest, and before the page is left. `due`: something has changed; `end`: nothing more will. */
export function whenIdle(save: () => void): { due: () => void; end: () => void } {
  let timer: ReturnType<typeof setTimeout> | null = null;
  const saveDue = () => {
    if (timer === null) return;
    clearTimeout(timer);
    timer = null;
    save();
  };
  const hidden = () => document.visibilityState === 'hidden' && saveDue();
  window.addEventListener('pagehide', saveDue);
  document.addEventListener('visibilitychange', hidden);
  return {
    due: () => {
      if (timer !== null) clearTimeout(timer);
      timer = setTimeout(saveDue, SAVE_AFTER_MS);
    },
    end: () => {
      saveDue();
      window.removeEventListener('pagehide', saveDue);
      document.removeEventListener('visibilitychange', hidden);
    },
  };
}
