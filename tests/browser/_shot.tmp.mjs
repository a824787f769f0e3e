import { launch, visit, faults } from './studio.mjs';
const [,, out, path, w='1280', h='800', act=''] = process.argv;
const b = await launch(); const p = await visit(b, 'http://127.0.0.1:5099', { width:+w, height:+h });
await p.goto('/sign-in'); if (await p.$('text=Sign in as IK')) await p.click('text=Sign in as IK');
await p.goto(path); await p.waitForLoadState('networkidle'); if (act) { await eval(`(async()=>{${act}})()`); }
await p.screenshot({ path: out }); console.log(p.troubles, await faults(p)); await b.close();
