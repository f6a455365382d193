import { startApps } from './app';

/** Half the demo's size keeps the suite short; everything else is as it is shipped. */
export default async function globalSetup() {
  return startApps(1024);
}
