// What the compiler does not hold: how long lines and files are, and who names concrete kinds of fields.
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

const root = join(import.meta.dirname, '..');
const longest = 140;
const most = 400;

// How many lines are longer still, by what they end with. A new one takes that an old one goes; the numbers only get smaller.
const longLines = { cs: 319, cshtml: 167, css: 141, js: 67, mjs: 244 };

// How many files outside of Values/Kinds name a kind by its class, instead of asking it. It only gets smaller.
const namingKinds = 1;

// How many files are longer than wanted, since the formatter breaks lines; it only gets smaller. None is twice as long.
const longFiles = 31;

const files = execFileSync('git', ['ls-files', '-co', '--exclude-standard', 'src', 'tests', 'bench'], { cwd: root, encoding: 'utf8' }).split('\n')
  .filter(file => /\.(cs|cshtml|css|js|mjs)$/.test(file) && !/\/(Migrations|Compiled|lib)\/|\.min\./.test(file))
  .filter(file => existsSync(join(root, file)));
const read = file => readFileSync(join(root, file), 'utf8');

function lines() {
  const found = {};
  for (const file of files) {
    const end = file.split('.').pop();
    found[end] = (found[end] ?? 0) + read(file).split('\n').filter(line => line.length > longest).length;
  }
  return Object.entries(found).filter(([end, count]) => count > (longLines[end] ?? 0))
    .map(([end, count]) => `${count} lines of .${end} files are longer than ${longest}; ${longLines[end] ?? 0} are allowed.`);
}

function lengths() {
  const long = files.map(file => [file, read(file).split('\n').length - 1]).filter(([, count]) => count > most);
  const said = ([file, count]) => `${file} has ${count} lines; ${most} are wanted.`;
  if (long.length > longFiles) return [`${long.length} files are long; ${longFiles} are allowed.`, ...long.map(said)];
  return long.filter(([, count]) => count > 2 * most).map(said);
}

function kinds() {
  const isKind = file => file.startsWith('src/Pelto.Core/Values/Kinds/');
  const names = files.filter(isKind).flatMap(file => [...read(file).matchAll(/record (\w+Kind)\b/g)].map(([, name]) => name));
  const pattern = new RegExp(`\\b(${names.join('|')})\\b`);
  const naming = files.filter(file => file.startsWith('src/') && !isKind(file) && pattern.test(read(file)));
  return naming.length > namingKinds ? [`${naming.length} files name a concrete kind; ${namingKinds} are allowed.`] : [];
}

// Our own tables are written through their typed model, so that a column stands in one place. These have a reason.
const writingBySql = {
  'src/Pelto.Data/Jobs/JobWork.cs': 'what a batch changed is kept by the statement that changes it, and never travels',
  'src/Pelto.Data/Storage/ValueConversion.cs': 'what triggers noted of a column is taken by the batch',
  'src/Pelto.Data/Storage/Structure.cs': 'what triggers noted goes with the trigger',
  'src/Pelto.Data/Definitions/ApplicationRole.cs': 'the mark that rights are given is one script with giving them',
};

function ownTables() {
  const writing = files.filter(file => file.startsWith('src/') && /(INSERT INTO|UPDATE|DELETE FROM) pelto\./.test(read(file)));
  const way = /private [^\n]*\b(ExecuteAsync|ScalarAsync)\(/;
  const helpers = files.filter(file => file.startsWith('src/') && way.test(read(file)));
  return [
    ...writing.filter(file => !writingBySql[file]).map(file => `${file} writes a table of ours by SQL; PeltoContext does.`),
    ...Object.keys(writingBySql).filter(file => !writing.includes(file))
      .map(file => `${file} writes none by SQL any more: take it off the list.`),
    ...helpers.map(file => `${file} runs statements in a way of its own; Database/Commands.cs does.`),
  ];
}

/** What is wrong, check by check. */
export const checks = () =>
  [['line width', lines()], ['file length', lengths()], ['concrete kinds', kinds()], ['our own tables', ownTables()]];

if (import.meta.filename === process.argv[1]) console.log(checks());
