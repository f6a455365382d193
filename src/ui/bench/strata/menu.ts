'use client';
/** The menus of the strata. */
import { MENU } from '../../common/controls';

export const MENU_BOX = `${MENU} min-w-48`;
