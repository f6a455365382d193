import { startApp } from './app';

/** Half the demo's size keeps the suite short; everything else is as it is shipped. */
export default async function globalSetup() {
  return startApp(1024);
}
