import { atOnce, Cancelled, inTurns, report, type Steps } from ".";

function* counting(to: number, ended: () => void): Steps<number> {
	try {
		let sum = 0;
		for (let i = 1; i <= to; i++) {
			sum += i;
			yield;
		}
		return sum;
	} finally {
		ended();
	}
}

test("steps give the same result at once and in turns, with a pause after so many", async () => {
	let [ended, pauses] = [0, 0];
	const steps = () => counting(10, () => ended++);
	expect(atOnce(steps())).toBe(55);
	expect(await inTurns(steps(), async () => void pauses++, 4)).toBe(55);
	expect([ended, pauses]).toEqual([2, 2]);
	expect(await inTurns(steps(), undefined)).toBe(55);
});

test("a cancel in a pause ends the work, which tidies up", async () => {
	let ended = 0;
	const signal = { aborted: false };
	const pause = async () => {
		signal.aborted = true;
		await report({ signal }, 0.5, "Counting");
	};
	await expect(
		inTurns(
			counting(10, () => ended++),
			pause,
		),
	).rejects.toThrow(Cancelled);
	expect(ended).toBe(1);
});
