/** One value all over. */
import type { State } from '../planes';
import { EVERYWHERE, type Node } from '../scope';

export class ValueNode implements Node {
  readonly text: string;
  readonly planes = [];
  readonly scopes = [];

  constructor(readonly value: readonly number[]) {
    this.text = `value ${value.join()}`;
  }

  part() {
    return EVERYWHERE;
  }

  evaluate(): State {
    return { even: [...this.value, 1], acc: null };
  }
}
