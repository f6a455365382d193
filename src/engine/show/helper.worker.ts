/** A helper in a worker of the page. */
import { Helper, type HelperMessage } from './helper';

const scope = self as unknown as {
  postMessage(message: unknown, transfer: Transferable[]): void;
  onmessage: ((event: MessageEvent<HelperMessage>) => void) | null;
};
const helper = new Helper();
scope.onmessage = ({ data }) => {
  const answer = helper.handle(data);
  if (answer)
    scope.postMessage(
      answer,
      answer.drawn.map((d) => d.buffer),
    );
};

// It has loaded.
scope.postMessage(null, []);
