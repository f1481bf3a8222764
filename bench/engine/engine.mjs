// node engine.mjs MODULES DATABASE rw|ro STATEMENTS: runs SQL statements, separated by ";;", in the analytic engine of the npm
// package @duckdb/node-api, on two threads.
import { createRequire } from 'node:module';
import { readFileSync } from 'node:fs';

const [modules, database, mode, statements] = process.argv.slice(2);
const { DuckDBInstance } = createRequire(modules + '/x.cjs')('@duckdb/node-api');
const access = mode === 'ro' ? { access_mode: 'READ_ONLY' } : {};
const instance = await DuckDBInstance.create(database, { threads: '2', preserve_insertion_order: 'false', ...access });
const connection = await instance.connect();
for (const statement of readFileSync(statements, 'utf8').split(';;')) {
  if (statement.trim()) await connection.run(statement);
}
