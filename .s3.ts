import { open } from './.shot';
const { browser, page } = await open('demo-setts');
await page.waitForTimeout(14000);
await page.getByRole('button', { name: 'One texel per pixel' }).click();
const m = (await page.getByTestId('pane-model').boundingBox())!;
await page.mouse.move(m.x+280, m.y+330);
for (let i=0;i<8;i++){ await page.mouse.wheel(0,-240); await page.waitForTimeout(150);}
await page.waitForTimeout(2500);
await page.screenshot({ path: '/tmp/c4.png' });
await browser.close();
