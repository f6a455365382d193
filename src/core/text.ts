/** Text that comes from files and other programs, or goes into them. */

/** Without NUL, which the database cannot keep, and without halves of surrogate pairs, which are no text; cut to a length. */
export const soundText = (text: string, most = Infinity): string => text.replaceAll('\u0000', '').slice(0, most).toWellFormed();

/** Letters, digits, dash and underscore: safe in every file system and engine. */
export function fileSafe(text: string): string {
  return (
    text
      .normalize('NFKD')
      .replace(/[\u0300-\u036f]/g, '')
      .replace(/[^A-Za-z0-9_-]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .toLowerCase() || 'untitled'
  );
}
