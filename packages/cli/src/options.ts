import { UNITS } from "@rubble/core/formats";
import { InvalidArgumentError, Option } from "commander";

export const wholeNumber = (text: string): number => {
	const value = Number(text);
	if (!Number.isInteger(value)) throw new InvalidArgumentError("a whole number is needed");
	return value;
};

export const finiteNumber = (text: string): number => {
	const value = Number(text);
	if (text.trim() === "" || !Number.isFinite(value)) throw new InvalidArgumentError("a number is needed");
	return value;
};

/** `0:1,0.5:0.2` as x and y in turn. */
export const curvePoints = (text: string): number[] => {
	const values = text.split(",").flatMap((point) => point.split(":").map((value) => (value.trim() === "" ? Number.NaN : Number(value))));
	if (values.length % 2 !== 0 || values.some((value) => !Number.isFinite(value)))
		throw new InvalidArgumentError("points such as 0:1,0.5:0.2 are needed");
	return values;
};

/** `1-120` */
export const frameRange = (text: string): { first: number; last: number } => {
	const match = /^(\d+)-(\d+)$/.exec(text);
	if (!match || Number(match[2]) < Number(match[1])) throw new InvalidArgumentError("a range such as 1-120 is needed");
	return { first: Number(match[1]), last: Number(match[2]) };
};

/** `1280x720`, even numbers: videos want them. */
export const pictureSize = (text: string): { width: number; height: number } => {
	const [width, height] = (/^(\d+)x(\d+)$/.exec(text) ?? []).slice(1).map(Number);
	if (!width || !height || width % 2 || height % 2 || width > 8192 || height > 8192)
		throw new InvalidArgumentError("a size such as 1280x720 is needed: even numbers up to 8192");
	return { width, height };
};

export const unitOption = () => new Option("--unit <unit>", "what one unit of the file is").choices(Object.keys(UNITS)).default("m");
export const upOption = () => new Option("--up <axis>", "which axis of the file points up").choices(["y", "z"]).default("y");
