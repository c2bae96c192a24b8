// Runs all suites, or those named, and ends with the totals of all of them.
import { spawn, spawnSync } from 'node:child_process';
import { readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { checks as checkStyle } from './style.mjs';

const root = join(import.meta.dirname, '..');
const wanted = process.argv.slice(2);
const unit = { core: 'Pelto.Core.Tests', data: 'Pelto.Data.Tests', web: 'Pelto.Web.Tests' };
const suites = wanted.length > 0 ? wanted : [...Object.keys(unit), 'style', 'audit', 'browser', 'bench'];
const totals = { passed: 0, failed: 0 };
const failures = [];

const run = (command, args, options = {}) => new Promise(done => {
  const { quiet, ...how } = options;
  const child = spawn(command, args, { cwd: root, stdio: ['ignore', 'pipe', quiet ? 'ignore' : 'inherit'], ...how });
  let said = '';
  child.stdout.on('data', data => {
    said += data;
    if (!quiet) process.stdout.write(data);
  });
  child.on('close', code => done({ code, said }));
});

const add = (name, passed, failed) => {
  totals.passed += passed;
  totals.failed += failed;
  console.log(`${name}: ${passed} passed, ${failed} failed`);
};

// What a failed test says, and where in our own code, with the failure: the rest of a long run is not looked through for it.
function whyOf(after) {
  const lines = after.split('\n').map(line => line.trim());
  const trace = lines.indexOf('Stack Trace:');
  const place = lines.slice(trace + 1).find(line => /\/tests\/.*:line \d+|\(\d+,\d+\): at /.test(line))?.split('/').pop();
  return `\n    ${lines.slice(0, Math.min(trace < 0 ? 6 : trace, 12)).filter(Boolean).join('\n    ')}${place ? `\n    at ${place}` : ''}`;
}

async function runUnit(name, project) {
  const { code, said } = await run('dotnet', [`tests/${project}/bin/Release/net10.0/${project}.dll`, '-noColor']);
  const [, total, errors, failed] = said.match(/Total: (\d+), Errors: (\d+), Failed: (\d+)/)?.map(Number) ?? [0, 0, 0, 0];
  failures.push(...[...said.matchAll(/^\s*(.+) \[FAIL\]\s*\n((?:.*\n){0,40})/gm)].map(([, title, after]) => `${name}: ${title}${whyOf(after)}`));
  const bad = failed + errors + (code !== 0 && failed + errors === 0 ? 1 : 0);
  add(name, total - failed, bad);
}

// Formatting counts as one test, and so does each check of ours; the rules of style in .editorconfig are errors of the build.
async function runStyle() {
  await run('dotnet', ['tool', 'restore'], { quiet: true });
  const { code } = await run('dotnet', ['csharpier', 'check', '.']);
  const all = [['formatting', code === 0 ? [] : ['`dotnet csharpier format .` would change something.']], ...checkStyle()];
  const wrong = all.filter(([, problems]) => problems.length > 0);
  failures.push(...wrong.map(([name, problems]) => `style: ${name}\n    ${problems.join('\n    ')}`));
  add('style', all.length - wrong.length, wrong.length);
}

// Packages with known weaknesses, where the registries answer: one test for each of the two.
async function runAudit() {
  const ask = async (command, args) => {
    const { said } = await run(command, args, { quiet: true });
    try {
      return JSON.parse(said);
    } catch {
      return null;
    }
  };
  const dotnet = await ask('dotnet', ['list', 'Pelto.slnx', 'package', '--vulnerable', '--include-transitive', '--format', 'json']);
  const weak = (dotnet?.projects ?? []).flatMap(project => project.frameworks ?? []).flatMap(framework => [...(framework.topLevelPackages ?? []), ...(framework.transitivePackages ?? [])]).map(found => `${found.id} ${found.resolvedVersion}`);
  const npm = await ask('npm', ['audit', '--json']);
  weak.push(...Object.keys(npm?.vulnerabilities ?? {}));
  if (!dotnet?.projects || dotnet.problems) console.log('audit: the registry of .NET packages does not answer');
  if (!npm?.metadata) console.log('audit: the npm registry does not answer');
  for (const name of new Set(weak)) failures.push(`audit: ${name} has a known weakness`);
  add('audit', 2 - Math.min(2, weak.length), Math.min(2, weak.length));
}

async function runBrowser() {
  const report = join(tmpdir(), `pelto-browser-${process.pid}.json`);
  const { code } = await run('npx', ['playwright', 'test', '--config', 'tests/browser/playwright.config.mjs', '--reporter=list,json'], { env: { ...process.env, PLAYWRIGHT_JSON_OUTPUT_NAME: report } });
  let stats = { expected: 0, unexpected: 0, flaky: 0 };
  try {
    const read = JSON.parse(readFileSync(report, 'utf8'));
    stats = read.stats;
    failures.push(...read.suites.flatMap(function specs(suite) {
      return [...suite.specs.filter(spec => !spec.ok).map(spec => `${suite.file}: ${spec.title}`), ...(suite.suites ?? []).flatMap(specs)];
    }));
    rmSync(report);
  } catch {
    // No report: the run itself failed, which the exit code tells.
  }
  const bad = stats.unexpected + stats.flaky;
  add('browser', stats.expected, bad + (code !== 0 && bad === 0 ? 1 : 0));
}

// Each benchmark on little data: none of them rots, and what it has to hold holds.
async function runBench() {
  const env = { ...process.env, PELTO_BENCH_SERVER: process.env.PELTO_TEST_SERVER, PELTO_DLL: join(root, 'src/Pelto.Web/bin/Release/net10.0/Pelto.Web.dll') };
  const { code, said } = await run('dotnet', ['bench/bin/Release/net10.0/Pelto.Bench.dll', 'all', 'small'], { env });
  const bad = [...said.matchAll(/^bench (\w+): FAILED, (.*)$/gm)];
  failures.push(...bad.map(([, name, why]) => `bench ${name}: ${why}`));
  add('bench', [...said.matchAll(/^bench \w+: works$/gm)].length, bad.length + (code !== 0 && bad.length === 0 ? 1 : 0));
}

const options = ['-c', 'Release', '-p:CompileAhead=true', '--nologo', '-v', 'quiet'];
const build = spawnSync('dotnet', ['build', 'Pelto.slnx', ...options], { cwd: root, stdio: 'inherit' });
if (build.status !== 0) {
  console.log('0 passed, 1 failed');
  process.exit(1);
}
const known = { core: () => runUnit('core', unit.core), data: () => runUnit('data', unit.data), web: () => runUnit('web', unit.web), style: runStyle, audit: runAudit, browser: runBrowser, bench: runBench };
for (const suite of suites) {
  if (known[suite]) continue;
  console.error(`There is no suite called ${suite}. There are: ${Object.keys(known).join(', ')}.`);
  process.exit(2);
}

// What waits for other programs for the most part goes on beside the rest.
const waits = new Set(['style', 'audit', 'bench']);
const beside = suites.filter(suite => waits.has(suite)).map(suite => known[suite]());
for (const suite of suites) if (!waits.has(suite)) await known[suite]();
await Promise.all(beside);
for (const failure of failures) console.log(`failed: ${failure}`);
console.log(`${totals.passed} passed, ${totals.failed} failed`);
process.exit(totals.failed === 0 ? 0 : 1);
