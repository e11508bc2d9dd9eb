import { closeDatabase } from "../../app/data/database.server";
import type { JobWord } from "./jobKeeper";
import { workOn } from "./workOn";

// Does jobs for a worker, one after the other, and ends with it. What a job does to this process it does to nobody else.
const worker = process.argv[2] ?? "";
const tell = (word: JobWord): void => void process.send?.(word, undefined, undefined, () => undefined);

// A video encoder fails alone when connections break; the job itself says what became of it.
process.on("unhandledRejection", (error) => console.error(`worker: ${error instanceof Error ? error.message : error}`));
process.on("message", ({ job }: { readonly job: string }) => {
	void workOn(job, worker, () => tell("alive")).finally(() => tell("done"));
});
process.once("disconnect", () => void closeDatabase().finally(() => process.exit(0)));
for (const signal of ["SIGINT", "SIGTERM"] as const)
	process.on(signal, () => {
		// The worker decides; Ctrl-C reaches both.
	});
