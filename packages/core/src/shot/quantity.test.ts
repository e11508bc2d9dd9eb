import { evaluateSum, formatNumber, formatQuantity } from "./quantity";
import { frameOfTick, tickOfFrame } from "./time";

test.each([
	["0.3*2", 0.6],
	["1/4 + 2", 2.25],
	["(1+2)*3", 9],
	["-2 * -3", 6],
	["2,5", 2.5],
	["3 × 4 ÷ 2", 6],
	["1e-3", 0.001],
	[".5", 0.5],
])("“%s” is %d", (text, value) => expect(evaluateSum(text)).toBeCloseTo(value, 12));

test.each(["", "abc", "1+", "(1", "2 2", "1/0", "alert(1)"])("“%s” is no sum", (text) => expect(evaluateSum(text)).toBeUndefined());

test("quantities choose a unit that keeps them readable", () => {
	expect(formatQuantity(18_432, "mass")).toBe("18.4 t");
	expect(formatQuantity(41.23, "mass")).toBe("41.2 kg");
	expect(formatQuantity(0.0285, "mass")).toBe("28.5 g");
	expect(formatQuantity(0.004, "length")).toBe("4.00 mm");
	expect(formatQuantity(7.68, "volume")).toBe("7.68 m³");
	expect(formatQuantity(0.0123, "volume")).toBe("12.3 dm³");
	expect(formatNumber(1234567)).toBe("1,234,567");
	expect(formatNumber(0)).toBe("0");
	expect(formatNumber(0.00012345)).toBe("0.000123");
});

test.each([24, 25, 30, 48, 50, 60])("%d frames a second fall on whole ticks, and back", (fps) => {
	const rate = { fps, firstFrame: 1 };
	for (const frame of [1, 2, 7, 100]) {
		expect(tickOfFrame(rate, frame)).toBe(((frame - 1) * 1200) / fps);
		expect(frameOfTick(rate, tickOfFrame(rate, frame))).toBeCloseTo(frame, 12);
	}
});
