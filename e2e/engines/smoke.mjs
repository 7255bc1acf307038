// The pickup's diagnosis and ten strokes in an engine other than Chromium: `node smoke.mjs firefox|webkit URL`.
// Firefox is driven over WebDriver BiDi, WebKit through its own driver; both by what they evaluate, so that one
// script serves.
import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { existsSync, readdirSync } from 'node:fs'
import { setTimeout as sleep } from 'node:timers/promises'

const [engine, url] = process.argv.slice(2)

async function firefox() {
  const { default: puppeteer } = await import('puppeteer-core')
  const browser = await puppeteer.launch({
    browser: 'firefox',
    executablePath: '/usr/bin/firefox-esr',
    args: ['--width=1280', '--height=900'],
    defaultViewport: null,
  })
  const page = await browser.newPage()
  return {
    open: (to) => page.goto(to, { waitUntil: 'domcontentloaded' }),
    evaluate: (js) => page.evaluate(js),
    key: (key) => page.keyboard.press(key === 'Space' ? ' ' : key),
    close: () => browser.close(),
  }
}

async function webkit() {
  const { Builder, Capabilities } = await import('selenium-webdriver')
  const libs = readdirSync('/usr/lib').flatMap((a) => ['4.1', '4.0'].map((v) => `/usr/lib/${a}/webkit2gtk-${v}/MiniBrowser`))
  const binary = libs.find((f) => existsSync(f))
  if (!binary || !existsSync('/usr/bin/WebKitWebDriver')) throw new Error('apt-get install webkit2gtk-driver')
  const screen = ':97'
  const xvfb = spawn('Xvfb', [screen, '-screen', '0', '1280x900x24'], { stdio: 'ignore' })
  const env = { ...process.env, DISPLAY: screen, WEBKIT_DISABLE_SANDBOX_THIS_IS_DANGEROUS: '1', LIBGL_ALWAYS_SOFTWARE: '1' }
  await sleep(1000)
  const server = spawn('WebKitWebDriver', ['--port=14444'], { stdio: 'ignore', env })
  await sleep(1000)
  const wants = new Capabilities({ browserName: 'MiniBrowser', 'webkitgtk:browserOptions': { binary, args: ['--automation'] } })
  const driver = await new Builder().usingServer('http://127.0.0.1:14444').withCapabilities(wants).build()
  return {
    open: (to) => driver.get(to),
    evaluate: (js) => driver.executeScript(`return (${js})`),
    key: async (key) => driver.actions().sendKeys(key === 'Space' ? ' ' : key).perform(),
    close: async () => {
      await driver.quit()
      server.kill()
      xvfb.kill()
      await Promise.all([once(server, 'exit'), once(xvfb, 'exit')]).catch(() => {})
    },
  }
}

const engines = { firefox, webkit }
if (!engines[engine] || !url) {
  console.error('usage: node smoke.mjs firefox|webkit URL')
  process.exit(2)
}

const b = await engines[engine]()
const at = (id) => `document.querySelector('[data-testid="${id}"]')`
async function until(what, js) {
  for (let i = 0; i < 300; i++) {
    if (await b.evaluate(`!!(${js})`)) return
    await sleep(100)
  }
  throw new Error(`${engine}: waited for ${what}: ${js}\n` + (await b.evaluate('document.body.innerText.slice(0, 1500)')))
}
async function click(id) {
  await until(id, `${at(id)} && !${at(id)}.disabled`)
  await b.evaluate(`(${at(id)}?.click(), 1)`)
}

let failed
try {
  await b.open(url)
  await click('demo-mara')
  await until('the bay', `document.querySelectorAll('[data-testid=job]').length >= 4`)
  await b.evaluate(`([...document.querySelectorAll('[data-testid=job]')].find((j) => j.innerText.includes('Corrigan')).click(), 1)`)
  for (const s of ['intake', 'match', 'replace', 'bench', 'verify', 'record', 'diagnose']) {
    await click('station-' + s)
    await until(s, `location.pathname.endsWith('/${s}') && document.querySelector('.work .field')`)
  }
  for (const id of ['pedal.sinks-slow', 'level.falls-no']) {
    await until(id, at(id))
    // Another engine may have been here before: a second tap would take it back.
    if (!(await b.evaluate(`${at(id)}?.getAttribute('aria-pressed') === 'true'`))) await click(id)
    await until(id, `${at(id)}?.getAttribute('aria-pressed') === 'true'`)
  }
  await until('a verdict', `${at('faults')}?.innerText.length > 20`)
  const verdict = await b.evaluate(`${at('faults')}?.innerText.split('\\n').slice(0, 2).join(' ')`)
  await click('station-bench')
  await until('the count', at('count'))
  const before = Number(await b.evaluate(`${at('count')}?.innerText`))
  for (let i = 0; i < 10; i++) {
    await b.key('Space')
    await sleep(450)
  }
  await until('ten strokes counted', `Number(${at('count')}?.innerText) === ${before + 10}`)
  await until('all of it stored', `${at('outbox')}?.dataset.waiting === '0'`)
  if (await b.evaluate(`!!${at('trouble')}`)) throw new Error(await b.evaluate(`${at('trouble')}?.innerText`))
  const core = await b.evaluate(`performance.getEntriesByName('core-ready').length`)
  console.log(`${engine}: every station opened, "${verdict}", ten strokes counted and stored, core ${core ? 'in the browser' : 'NOT in the browser'}`)
} catch (e) {
  failed = e
} finally {
  await b.close().catch(() => {})
}
if (failed) {
  console.error(failed)
  process.exit(1)
}
