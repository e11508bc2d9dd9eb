import { type EngineFactory, rapierEngine, stepSeconds } from "@rubble/core/simulation";

/** What a run costs while it goes on, over the frames since it was last asked. */
export interface LiveCost {
	/** ms a frame, and those of it in the physics engine. */
	readonly frame: number;
	readonly engine: number;
	/** Contacts in the last substep that bear more than a few weights. */
	readonly contacts: number;
	/** Bodies that move by themselves and are not asleep. */
	readonly awake: number;
	/** Bodies that were swept in the last substep because they would have crossed a good part of their thickness. */
	readonly swept: number;
	/** In how many parts the most divided substep was done; 1 where none was. */
	readonly parts: number;
}

export interface Watch {
	readonly factory: EngineFactory;
	/** The cost since it was last asked; undefined before a frame is done. `frame`: the last one that is. */
	readonly read: (frame: number) => LiveCost | undefined;
}

/** The engine with a stopwatch on its steps. `first`: the frame before the first that is made. */
export function watchEngine(first: number): Watch {
	let spent = 0;
	let since = performance.now();
	let done = first;
	let contacts = 0;
	let swept = 0;
	let sweeping = 0;
	let awake = new Uint8Array(0);
	let whole = 0;
	let parts = 1;
	return {
		factory: async (...words) => {
			const engine = await rapierEngine(...words);
			const { step, setStep, readState, setSweep } = engine;
			whole = stepSeconds(words[0]);
			since = performance.now();
			return Object.assign(engine, {
				step() {
					const begin = performance.now();
					step.call(engine);
					spent += performance.now() - begin;
					contacts = engine.contacts.count;
					[swept, sweeping] = [sweeping, 0];
				},
				setStep(seconds: number) {
					setStep.call(engine, seconds);
					parts = Math.max(parts, Math.round(whole / seconds));
				},
				setSweep(body: number, distance: number) {
					setSweep.call(engine, body, distance);
					if (distance > 0) sweeping++;
				},
				readState(into: Parameters<typeof readState>[0]) {
					readState.call(engine, into);
					awake = into.awake as Uint8Array<ArrayBuffer>;
				},
			});
		},
		read(frame) {
			const frames = frame - done;
			if (frames <= 0) return undefined;
			const now = performance.now();
			const cost = {
				frame: (now - since) / frames,
				engine: spent / frames,
				contacts,
				swept,
				parts,
				awake: awake.reduce((sum, one) => sum + one, 0),
			};
			[since, spent, done, parts] = [now, 0, frame, 1];
			return cost;
		},
	};
}
