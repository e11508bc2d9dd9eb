import { when } from "./when";

const now = new Date(2026, 10, 25, 15, 30);
const at = (...parts: [number, number, number, number, number]) => when(new Date(...parts).toISOString(), now);

test("today has its time, yesterday its name, this week its day, all else its date", () => {
	expect(at(2026, 10, 25, 9, 5)).toBe("09:05");
	expect(at(2026, 10, 24, 23, 59)).toBe("yesterday");
	expect(at(2026, 10, 21, 8, 0)).toBe("Sat");
	expect(at(2026, 9, 3, 8, 0)).toMatch(/Oct 3, 2026|3 Oct 2026/);
});
