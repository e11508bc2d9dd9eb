import { drizzle } from "drizzle-orm/node-postgres";
import { migrate as runMigrations } from "drizzle-orm/node-postgres/migrator";
import { Pool, type QueryConfig } from "pg";
import * as schema from "./schema";

/** One pool for the process; a dead connection is replaced, not fatal. */
const pool = new Pool({ connectionString: process.env.DATABASE_URL, max: 10, connectionTimeoutMillis: 10_000 });
pool.on("error", (error) => console.error(`database: ${error.message}`));
// While somebody uses a connection the pool does not listen to it: it may break between two queries of a transaction.
pool.on("connect", (client) => client.on("error", (error) => console.error(`database: ${error.message}`)));

export const database = drizzle(pool, { schema });

export type Transaction = Parameters<Parameters<typeof database.transaction>[0]>[0];

/** A question without a schema, for the queue; one that nobody answers fails after so many ms. */
export const ask = (text: string, values: unknown[] = []) =>
	pool.query<object, unknown[]>({ text, values, query_timeout: 30_000 } as QueryConfig);

export const migrate = (folder: string): Promise<void> => runMigrations(database, { migrationsFolder: folder });

export const closeDatabase = (): Promise<void> => pool.end();
