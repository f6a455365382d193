/** What is under the pointer. A store of its own: it changes all the time. */
import { create } from 'zustand';

interface Pointed {
  /** The brush's diameter in texels there; null off the model. */
  texels: number | null;
  /** Sheet under the pointer, in the model pane. */
  sheetId: string | null;
  /** The values that were picked last, in words. */
  picked: string;
}

export const usePointed = create<Pointed>(() => ({ texels: null, sheetId: null, picked: '' }));
