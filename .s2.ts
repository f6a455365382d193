import { chromium } from '@playwright/test';
import { CHROMIUM } from './e2e/chromium';
import { createHash } from 'crypto';
import { execSync } from 'child_process';
const browser = await chromium.launch(CHROMIUM);
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const t = Date.now();
await page.goto(`http://127.0.0.1:3100/pieces/demo-setts`);
await page.getByTestId('bench').waitFor({ timeout: 120_000 });
let last=''; for(let i=0;i<12;i++){await page.waitForTimeout(4000);const b=await page.screenshot({clip:{x:920,y:180,width:340,height:330}});const h=createHash('md5').update(b).digest('hex').slice(0,6);console.log(Date.now()-t,h,h===last?'same':'');last=h; if(i%3===1)console.log(execSync('ps -eo pcpu,pid,comm,args --sort=-pcpu | head -6 | cut -c1-110').toString());}
await page.screenshot({ path: `/tmp/c3.png` });
await browser.close();
