import { formatNumber, formatQuantity, readQuantity, splitQuantities, unitFactor } from "./quantity";
import { frameOfTick, tickOfFrame } from "./time";

const read = (text: string, unit = "", fps?: number): number | string => {
	const outcome = readQuantity(text, { unit, fps });
	return outcome.ok ? outcome.value : outcome.problems[0]!.message;
};

test.each([
	["0.3*2", 0.6],
	["1/4 + 2", 2.25],
	["(1+2)*3", 9],
	["-2 * -3", 6],
	["2,5", 2.5],
	["3 × 4 ÷ 2", 6],
	["1e-3", 0.001],
	[".5", 0.5],
	["−4", -4],
])("“%s” is %d, whatever the field's unit", (text, value) => {
	for (const unit of ["", "m", "kg/m³", "lx"]) expect(read(text, unit)).toBeCloseTo(value, 12);
});

test.each<[string, string, number]>([
	["240 cm", "m", 2.4],
	["240 cm", "mm", 2400],
	["1.2m", "m", 1.2],
	["70cm", "m", 0.7],
	["6", "mm", 6],
	["6 mm", "m", 0.006],
	["0.6/2 m", "m", 0.3],
	["1 m + 20 cm", "m", 1.2],
	["1 m + 5", "mm", 1005],
	["2 * 30 cm", "m", 0.6],
	["(1 + 1) ft", "m", 0.6096],
	["3 in", "mm", 76.2],
	["36 km/h", "m/s", 10],
	["10 m/s", "m/s", 10],
	["2 t", "kg", 2000],
	["500 g", "kg", 0.5],
	["2.4 g/cm³", "kg/m³", 2400],
	["2.4 g/cm^3", "kg/m³", 2400],
	["1 t/m3", "kg/m³", 1000],
	["500 ms", "s", 0.5],
	["12 frames", "s", 0.5],
	["2 s", "frames", 48],
	["1.5 turns", "°", 540],
	["90 deg", "°", 90],
	["2 turns/s", "°/s", 720],
	["30 kPa", "MPa", 0.03],
	["3 kN", "N", 3000],
	["2 kN m", "N m", 2000],
	["2 N·m", "N m", 2],
	["9.81 m/s²", "m/s²", 9.81],
	["2 J/m²", "J/m²", 2],
	["3 /s", "/s", 3],
	["4 Hz", "1/s", 4],
	["25 fps", "fps", 25],
	["900 lx", "lx", 900],
	["50 %", "%", 50],
	["2 ×", "×", 2],
	["1 l", "m³", 0.001],
	["1e3 mm", "m", 1],
])("“%s” in a field of %s is %d", (text, unit, value) => expect(read(text, unit, 24)).toBeCloseTo(value, 12));

test.each<[string, string, RegExp]>([
	["", "m", /is no number/],
	["abc", "m", /is no number/],
	["1+", "m", /is no number/],
	["(1", "m", /closing bracket/],
	["2 2", "m", /is no number/],
	["1/0", "m", /is no number/],
	["alert(1)", "m", /is no number/],
	["3 kg", "m", /is a mass; a length is needed here, in m/],
	["3 kg", "", /is a mass; a bare number is needed here/],
	["3 stone", "kg", /a unit that is not known: stone/],
	["3 mPa", "MPa", /not known/],
	["1 m + 2 kg", "m", /adds a length and a mass/],
	["2 m * 3 m", "m", /is an area; a length/],
	["12 frames", "m", /is a time; a length/],
])("“%s” in a field of %s is refused with why", (text, unit, message) => expect(read(text, unit, 24)).toMatch(message));

test("several at once: each is read by its own field; sums and products of units are one", () => {
	expect(splitQuantities("1 1 6")).toEqual(["1", "1", "6"]);
	expect(splitQuantities("0 1.2 -3")).toEqual(["0", "1.2", "-3"]);
	expect(splitQuantities("10 cm 20 cm 5mm")).toEqual(["10 cm", "20 cm", "5mm"]);
	expect(splitQuantities("1; 2; 3 cm")).toEqual(["1", "2", "3 cm"]);
	expect(splitQuantities("1, 2, 3")).toEqual(["1", "2", "3"]);
	for (const one of ["1", "1 + 2", "2 N m", "36 km/h", "1,5", "-3", "0.6 / 2", ""])
		expect([one, splitQuantities(one)]).toEqual([one, undefined]);
});

test("rules know units of lengths, masses, areas and volumes", () => {
	expect(unitFactor("dm3")).toEqual({ dimension: "volume", factor: expect.closeTo(1e-3, 12) });
	expect(unitFactor("m²")).toEqual({ dimension: "area", factor: 1 });
	expect(unitFactor("t")).toEqual({ dimension: "mass", factor: 1000 });
	expect(unitFactor("s")).toBeUndefined();
	expect(unitFactor("stone")).toBeUndefined();
});

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
