/** A helper in a thread of Node. */
import { parentPort } from 'node:worker_threads';
import { Helper, type HelperMessage } from '../../src/engine/show/helper';

const helper = new Helper();
parentPort!.on('message', (message: HelperMessage) => {
  const answer = helper.handle(message);
  if (answer) parentPort!.postMessage(answer);
});
