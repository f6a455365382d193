/** What a schema finds wrong, in words: where, and what is there instead of what. */
import type { ZodError } from 'zod';

/** "at sheets.0.width: a number is missing"; no full stop. */
export function issueInWords(error: ZodError): string {
  const [issue] = error.issues;
  // Zod 4 says "Invalid input: expected number, received undefined".
  const told = /^Invalid input: expected ([^,]+), received (.+)$/.exec(issue.message);
  const what = !told
    ? issue.message.replace(/\.$/, '')
    : told[2] === 'undefined'
      ? `${aOr(told[1])} is missing`
      : `${aOr(told[1])} was expected, and ${aOr(told[2])} is there`;
  return `at ${issue.path.map(String).join('.').slice(0, 120) || 'its root'}: ${what.slice(0, 200)}`;
}

const aOr = (word: string): string =>
  /^[a-z]+$/.test(word) && word !== 'null' ? `${/^[aeiou]/.test(word) ? 'an' : 'a'} ${word}` : word;
