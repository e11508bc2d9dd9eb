import { sql } from "drizzle-orm";
import { database } from "~/data/database.server";

export async function loader() {
	try {
		await database.execute(sql`select 1`);
		return Response.json({ ok: true });
	} catch {
		return Response.json({ ok: false, message: "The database does not answer." }, { status: 503 });
	}
}
