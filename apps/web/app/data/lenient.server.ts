import { type SQL, sql } from "drizzle-orm";

// Facts of stored JSON for lists, which must be made whatever somebody has stored.

/** The length of a list; what is none has no length. */
export const lengthOf = (list: SQL): SQL<number> =>
	sql<number>`case jsonb_typeof(${list}) when 'array' then jsonb_array_length(${list}) else 0 end`;

/** How many members an object has. */
export const membersOf = (object: SQL): SQL<number> =>
	sql<number>`case jsonb_typeof(${object}) when 'object' then (select count(*)::int from jsonb_object_keys(${object})) else 0 end`;

/** A number; 0 where it is none. */
export const numberAt = (value: SQL): SQL<number> =>
	sql<number>`case jsonb_typeof(${value}) when 'number' then (${value})::float8 else 0 end`;
