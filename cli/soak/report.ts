/** What a soak found, as lines and as a table. */
export type Killed = 'browser' | 'application' | 'database';

export const LOSSES = {
  strokeLost: 'finished strokes lost',
  cutShort: 'finished strokes cut short, or more than 100 ms of one under the pen',
  underPenLost: 'strokes under the pen lost altogether',
  doubled: 'strokes painted twice',
  falseConflict: 'conflicts where nobody else was',
  falselyRefused: 'changes refused without cause',
  neverKept: 'not kept 90 s after everything was back',
  locked: 'pieces that did not open again',
} as const;

export interface Round {
  what: Killed;
  midStroke: boolean;
  fault: keyof typeof LOSSES | null;
}

export class SoakReport {
  private rounds: Round[] = [];

  add(round: Round): void {
    this.rounds.push(round);
  }

  get lost(): number {
    return this.rounds.filter((r) => r.fault).length;
  }

  line(n: number): string {
    const { what, midStroke, fault } = this.rounds.at(-1)!;
    return `${n}: ${what} killed ${midStroke ? 'in mid-stroke' : 'after a stroke'}: ${fault ? LOSSES[fault] : 'nothing lost'}`;
  }

  /** Markdown: rounds and losses by what was killed and when. */
  table(): string {
    const kinds = [
      ['browser', 'application', 'database'].flatMap((what) => [false, true].map((mid) => ({ what, mid }))),
      [{ what: null, mid: null }],
    ].flat();
    const rows = kinds.map(({ what, mid }) => {
      const of = this.rounds.filter((r) => what === null || (r.what === what && r.midStroke === mid));
      const name = what === null ? '**all**' : `${what}, ${mid ? 'in mid-stroke' : '0 to 3,000 ms after pen-up'}`;
      const counts = Object.keys(LOSSES).map((k) => of.filter((r) => r.fault === k).length);
      return `| ${[name, of.length, ...counts].join(' | ')} |`;
    });
    const head = ['killed', 'rounds', ...Object.values(LOSSES)];
    return [`| ${head.join(' | ')} |`, `| ${head.map(() => '---').join(' | ')} |`, ...rows, ''].join('\n');
  }
}
