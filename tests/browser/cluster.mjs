// A database server of its own, for tests that stop it: from Debian's package, on loopback, in a folder that goes with it.
import { spawnSync } from 'node:child_process';
import { chmodSync, existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const root = '/usr/lib/postgresql';
const bin = existsSync(root) && join(root, readdirSync(root).sort((one, other) => Number(one) - Number(other)).at(-1), 'bin');
const isRoot = process.getuid() === 0;

// The server refuses to run as root.
function run(command, ...args) {
  const asPostgres = isRoot ? ['setpriv', '--reuid=postgres', '--regid=postgres', '--init-groups'] : [];
  const [first, ...rest] = [...asPostgres, join(bin, command), ...args];
  const done = spawnSync(first, rest, { cwd: '/', encoding: 'utf8', stdio: ['ignore', 'ignore', 'pipe'] });
  if (done.status !== 0) throw new Error(`${command}: ${done.stderr}`);
}

export class Cluster {
  constructor(port) {
    this.port = port;
    this.folder = mkdtempSync(join(tmpdir(), 'pelto-cluster-'));
    if (isRoot) spawnSync('chown', ['postgres', this.folder]);
    chmodSync(this.folder, 0o700);
    run('initdb', '-D', this.folder, '-U', 'pelto', '-A', 'trust', '-E', 'UTF8', '--locale=C.UTF-8', '--locale-provider=icu', '--icu-locale=und');
  }

  start() {
    run('pg_ctl', '-D', this.folder, '-l', join(this.folder, 'log'), '-o', `-p ${this.port} -c listen_addresses=127.0.0.1 -c unix_socket_directories=''`, '-w', '-t', '60', 'start');
  }

  // As a machine that loses its power would.
  stop() {
    run('pg_ctl', '-D', this.folder, '-m', 'immediate', '-w', '-t', '60', 'stop');
  }

  remove() {
    this.stop();
    rmSync(this.folder, { recursive: true, force: true });
  }

  sql(text, database = 'postgres') {
    const done = spawnSync('psql', ['-h', '127.0.0.1', '-p', String(this.port), '-U', 'pelto', '-d', database, '-Atc', text], { encoding: 'utf8' });
    if (done.status !== 0) throw new Error(done.stderr);
    return done.stdout.trim();
  }
}
