/** Text that comes from files and other programs. */

/** Without NUL, which the database cannot keep, and without halves of surrogate pairs, which are no text; cut to a length. */
export const soundText = (text: string, most = Infinity): string => text.replaceAll('\u0000', '').slice(0, most).toWellFormed();
