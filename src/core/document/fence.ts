/** The fence of a sheet: seen as a mask, so that what shows and edits masks does so with fences; and the edits that change it. */
import { setSheetEdit, type Edit } from './edits';
import { fenceSchema, type Fence, type Mask, type Sheet } from './schema';

/** It goes by this id among masks. */
export const FENCE_ID = 'fence';

export const isFence = ({ id }: Pick<Mask, 'id'>): boolean => id === FENCE_ID;

export const NO_FENCE: Fence = fenceSchema.parse({});

export const asMask = ({ ground, invert, steps }: Fence): Mask => ({ id: FENCE_ID, name: 'Fence', ground, invert, steps });

/** The fence at hand as a mask; where there is none, one without steps. */
export const fenceMask = ({ fence }: Pick<Sheet, 'fence'>): Mask => asMask(fence?.fence ?? NO_FENCE);

/** What limits strokes now; null: nothing. */
export const fenceAtWork = ({ fence }: Pick<Sheet, 'fence'>): Fence | null => (fence?.on ? fence.fence : null);

/** Changes the fence at hand, and puts it on. */
export const setFenceEdit = (sheet: Sheet, after: Partial<Fence>, on = true): Edit =>
  setSheetEdit(sheet, { fence: { on, fence: { ...(sheet.fence?.fence ?? NO_FENCE), ...after } } });

/** Finds a mask of a sheet by its id, the fence among them. */
export const maskOrFence = (sheet: Sheet, id: string): Mask | undefined =>
  id === FENCE_ID ? fenceMask(sheet) : sheet.masks.find((m) => m.id === id);
