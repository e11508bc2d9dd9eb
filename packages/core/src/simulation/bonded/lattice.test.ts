import { planFine } from "./lattice";

const DT = 1 / 120;

test("what can be followed is: nothing is softer, and nothing heavier", () => {
	expect(planFine([2000, 3000, 4000], [1, 1, 1], 3, DT)).toEqual({ followed: 4000, softening: 1 });
});

test("crumbs become heavier as long as that adds a hundredth to the whole", () => {
	const frequency = [...Array(99).fill(5000), 1e5];
	// One crumb: followed at 5,000 rad/s it has 400 times its mass.
	const withCrumb = (crumb: number) => planFine(frequency, [...Array(99).fill(1), crumb], 200, DT);
	expect(withCrumb(1e-3)).toEqual({ followed: 5000, softening: 1 });
	const heavy = withCrumb(1e-1);
	expect(heavy.followed).toBe(1e5);
});

test("springs are softer by the square of what is not followed, and by less where there are few bonds", () => {
	const [few, many] = [
		planFine(Array(100).fill(1e6), Array(100).fill(1), 300, DT),
		planFine(Array(100).fill(1e6), Array(100).fill(1), 1e5, DT),
	];
	for (const { followed, softening } of [few, many]) expect(softening).toBeCloseTo((followed / 1e6) ** 2, 12);
	expect(few.followed / many.followed).toBeCloseTo(1000 / 160, 6);
});
