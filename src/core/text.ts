/** Text that comes from files and other programs. */

/** Without NUL, which the database cannot keep, and without halves of surrogate pairs, which are no text. */
export const soundText = (text: string): string => text.replaceAll('\u0000', '').toWellFormed();
