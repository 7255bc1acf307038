#!/usr/bin/env node
// Every library that is linked or bundled, with the day its version was published and the newest there is: docs/versions.md, for a
// person to hold against the advisories of the day. Where the registries answer for known faults (govulncheck, npm audit) those are
// to be asked; the ones this was made behind answer for versions alone.
import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

process.chdir(join(dirname(fileURLToPath(import.meta.url)), '..'))
const run = (cmd, ...args) => execFileSync(cmd, args, { encoding: 'utf8', maxBuffer: 1 << 28, stdio: ['ignore', 'pipe', 'ignore'] })
const day = (t) => (t ?? '').slice(0, 10)

function goModules() {
  const linked = new Set(run('go', 'list', '-deps', '-f', '{{with .Module}}{{if not .Main}}{{.Path}}{{end}}{{end}}', './cmd/geminate').split('\n').filter(Boolean))
  const all = run('go', 'list', '-m', '-u', '-json', ...linked)
  return all
    .split(/^}$/m)
    .filter((s) => s.trim())
    .map((s) => JSON.parse(s + '}'))
    .map((m) => [m.Path, m.Version, day(m.Time), m.Update?.Version ?? m.Version, day(m.Update?.Time ?? m.Time), m.Deprecated ? 'deprecated' : ''])
}

function npmPackages() {
  const lock = JSON.parse(readFileSync('web/package-lock.json', 'utf8'))
  const list = Object.entries(lock.packages).filter(([k, v]) => k && !v.dev && !v.optional && !v.peer)
  return list.map(([k, v]) => {
    const name = k.replace(/^.*node_modules\//, '')
    const seen = JSON.parse(run('npm', 'view', name, 'time', 'dist-tags', 'deprecated', '--json'))
    const newest = seen['dist-tags'].latest
    return [name, v.version, day(seen.time[v.version]), newest, day(seen.time[newest]), seen.deprecated ? 'deprecated' : '']
  })
}

const table = (rows) => ['| library | version | of | newest | of | |', '|---|---|---|---|---|---|', ...rows.sort().map((r) => `| ${r.join(' | ')} |`)].join('\n')
const behind = (rows) => rows.filter((r) => r[1] !== r[3]).length
const go = goModules()
const npm = npmPackages()
writeFileSync(
  'docs/versions.md',
  `# What is linked and bundled

Written by \`scripts/versions.mjs\` on ${new Date().toISOString().slice(0, 10)}. Do not edit.

For a person to hold against the advisories of the day: \`govulncheck ./...\` and \`npm audit --omit=dev\` say it by themselves where the
registries answer them.

## Go modules linked into the program: ${go.length}, ${behind(go)} not the newest

${table(go)}

## Packages bundled into the page: ${npm.length}, ${behind(npm)} not the newest

${table(npm)}
`,
)
