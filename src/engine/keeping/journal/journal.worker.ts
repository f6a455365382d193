/** The journal in a worker of the page. The engine speaks to it through a port of its own. */
import { expose } from 'comlink';
import type { Sample } from '../../../core/hand/sample';
import { Journal } from './journal';

class PageJournal extends Journal {
  /** As `finish`; answers when the promise was kept, in milliseconds since 1970: what pages measure. */
  async finishAt(id: string, samples: Sample[]): Promise<number> {
    await this.finish(id, samples);
    return performance.timeOrigin + performance.now();
  }
  connect(port: MessagePort): void {
    expose(this, port);
  }
}
export type JournalDoor = PageJournal;
expose(new PageJournal());
