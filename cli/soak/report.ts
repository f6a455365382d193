/** What a soak found, as lines and as a table. */
export type Killed = 'browser' | 'application' | 'database';
/** When the kill happens: during a stroke, within 150 ms after an action ended, or within three seconds after it. */
export type When = 'pen down' | 'soon' | 'late';

export const LOSSES = {
  lost: 'finished actions lost',
  'cut short': 'strokes cut short',
  doubled: 'done twice',
  other: 'another history or document',
  otherPixels: 'other pixels',
  falseConflict: 'conflicts where nobody else was',
  falselyRefused: 'changes refused without cause',
  neverKept: 'not kept 90 s after everything was back',
  locked: 'pieces that did not open again',
} as const;
export type Loss = keyof typeof LOSSES;

const WHEN: Record<When, string> = {
  'pen down': 'pen down',
  soon: '0 to 150 ms after an action',
  late: '0 to 3 s after an action',
};

export interface Round {
  what: Killed;
  when: When;
  loss: Loss | null;
}

export class SoakReport {
  private rounds: Round[] = [];

  add(round: Round): void {
    this.rounds.push(round);
  }

  get lost(): number {
    return this.rounds.filter((r) => r.loss).length;
  }

  line(n: number): string {
    const { what, when, loss } = this.rounds.at(-1)!;
    return `${n}: ${what} killed, ${WHEN[when]}: ${loss ? LOSSES[loss] : 'nothing lost'}`;
  }

  /** Markdown: rounds and losses by what was killed and when. */
  table(): string {
    const kinds: { what: Killed | null; when: When | null }[] = [
      ...(['browser', 'application', 'database'] as const).flatMap((what) =>
        (Object.keys(WHEN) as When[]).map((when) => ({ what, when })),
      ),
      { what: null, when: null },
    ];
    const rows = kinds.map(({ what, when }) => {
      const of = this.rounds.filter((r) => what === null || (r.what === what && r.when === when));
      const name = what === null ? '**all**' : `${what}, ${WHEN[when!]}`;
      const counts = Object.keys(LOSSES).map((k) => of.filter((r) => r.loss === k).length);
      return `| ${[name, of.length, ...counts].join(' | ')} |`;
    });
    const head = ['killed', 'rounds', ...Object.values(LOSSES)];
    return [`| ${head.join(' | ')} |`, `| ${head.map(() => '---').join(' | ')} |`, ...rows, ''].join('\n');
  }
}
