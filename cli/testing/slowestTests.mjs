/** A reporter for jest and for Playwright: writes down how long each test took, so that the slowest can be named at the end. */
import { appendFileSync, mkdirSync } from 'node:fs';
import { basename, dirname } from 'node:path';
import { env } from 'node:process';

export const SLOWEST_FILE = '.brindle/test-times.jsonl';

/** Only for ./brindle test, which begins the file anew: else it would grow for ever. */
const note = (file, title, ms) => {
  if (!env.BRINDLE_TEST_TIMES) return;
  mkdirSync(dirname(SLOWEST_FILE), { recursive: true });
  appendFileSync(SLOWEST_FILE, `${JSON.stringify({ file: basename(file), title, ms: Math.round(ms) })}\n`);
};

export default class SlowestTests {
  /** Jest: a file is done. */
  onTestResult(_test, { testFilePath, testResults }) {
    for (const { fullName, duration } of testResults) note(testFilePath, fullName, duration ?? 0);
  }
  /** Playwright: a test is done. */
  onTestEnd(test, { duration }) {
    if (test.location) note(test.location.file, test.title, duration);
  }
}
