// Once for all browser tests: a database with the sample company, of which each file of tests works on a copy.
import { dropDatabase, install, sql } from './pelto.mjs';

export default async function setUp() {
  process.env.PELTO_TEMPLATE = `pelto_test_browser_${process.pid}`;
  sql(`CREATE DATABASE ${process.env.PELTO_TEMPLATE}`);
  install(process.env.PELTO_TEMPLATE);
  return () => dropDatabase(process.env.PELTO_TEMPLATE);
}
