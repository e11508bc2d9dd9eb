import { Command, CommanderError } from "commander";
import { addBake } from "./commands/bake";
import { addBreak } from "./commands/break";
import { addCheck } from "./commands/check";
import { addInspect } from "./commands/inspect";
import { addMethods } from "./commands/methods";
import { addRun } from "./commands/run";
import { addSample } from "./commands/sample";
import { addSettle } from "./commands/settle";
import { addSweep } from "./commands/sweep";
import { Failure } from "./failure";

// Whoever reads may stop reading (`rubble … | head`).
process.stdout.on("error", (error: NodeJS.ErrnoException) => {
	if (error.code === "EPIPE") process.exit(0);
	throw error;
});

/** Runs `rubble` with these words; the exit code: 0 done, 1 failed (one line on stderr), 2 wrong use. */
export async function main(words: readonly string[]): Promise<number> {
	const program = new Command("rubble")
		.description("Fracture, simulate and bake without a browser: the same core, the same bytes.")
		.exitOverride()
		.showHelpAfterError("(add --help for the options)");
	for (const add of [addInspect, addBreak, addMethods, addSample, addRun, addSweep, addSettle, addCheck, addBake]) add(program);
	for (const command of program.commands) command.exitOverride();
	try {
		await program.parseAsync([...words], { from: "user" });
		return 0;
	} catch (error) {
		if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
		const message = error instanceof Failure || error instanceof Error ? error.message : String(error);
		process.stderr.write(`rubble: ${message.replaceAll("\n", " ")}\n`);
		return 1;
	}
}
