import { type Described, type Id, type OptionSpec, optionDefaults, type Shot, seedSpec } from "../shot";

/** What the options of a bond set say. */
export interface BondOptions {
	/** Everything active where it is absent. */
	readonly on?: string;
	readonly by: "faces" | "near";
	readonly reach: number;
	readonly radius: number;
	readonly most: number;
	readonly among: "own" | "all";
	readonly foot: "none" | "touching";
	readonly strength: "material" | "given" | "endless";
	readonly tension: number;
	readonly shear: number;
	readonly compression: number;
	readonly energy: number;
	readonly factor: number;
	readonly toughness: number;
	readonly uneven: number;
	readonly grain: number;
	readonly slabs: number;
	readonly grouped: "near" | "noise";
	readonly within: number;
	readonly chunks: number;
	readonly chunkWithin: number;
	readonly yields: number;
	readonly fades: "never" | "frames";
	readonly fade: readonly number[];
	readonly dust: number;
	readonly dustAfter: number;
	readonly leaves: "nothing" | "stones";
	readonly stones: number;
	readonly seed: number;
}

const given = ({ strength }: Readonly<Record<string, unknown>>) => strength === "given";
const breaks = ({ strength }: Readonly<Record<string, unknown>>) => strength !== "endless";
/** `byHand`: how many were made by hand; no option, but what forms show goes by it. */
const hasSlabs = ({ slabs, byHand }: Readonly<Record<string, unknown>>) => Number(slabs) > 0 || Number(byHand) > 0;
const crumbles = (options: Readonly<Record<string, unknown>>) => breaks(options) && Number(options.dust) > 0;
const megapascal = (label: string, fallback: number, help: string): OptionSpec => ({
	kind: "number",
	label,
	unit: "MPa",
	default: fallback,
	least: 0,
	most: 10_000,
	help,
	when: given,
});

/** The settings of a bond set: bench, command line and checks follow from them. */
export const BOND_SET: Described = {
	label: "Bonds",
	options: {
		on: {
			kind: "rule",
			label: "Holds together",
			help: "Which pieces and objects, such as: Breakwater/*. Everything active where it is empty",
		},
		strength: {
			kind: "choice",
			label: "Strength",
			default: "material",
			choices: [
				{ id: "material", label: "Material", help: "What the weaker of the two materials bears" },
				{ id: "given", label: "Given", help: "In megapascals" },
				{ id: "endless", label: "Never breaks", help: "Holds whatever comes" },
			],
			help: "How much stress the bonds bear",
		},
		factor: {
			kind: "number",
			label: "Weaker … stronger",
			unit: "×",
			default: 1,
			least: 0.0001,
			most: 10_000,
			help: "Multiplies every strength of this set",
			when: breaks,
		},
		toughness: {
			kind: "number",
			label: "Tough",
			unit: "×",
			default: 15,
			least: 0.1,
			most: 10_000,
			help: "How much more than a clean crack breaking takes, with all that is crushed and rubbed along it: little shatters, much stays local",
			when: breaks,
		},
		tension: megapascal("Tension", 0.5, "Pulled apart, or bent open at its edge"),
		shear: megapascal("Shear", 1, "Slid along its face; pressure adds friction"),
		compression: megapascal("Compression", 8, "Crushed"),
		energy: {
			kind: "number",
			label: "Energy",
			unit: "J/m²",
			default: 20,
			least: 0,
			most: 1e7,
			help: "What a square metre of crack takes from the blow",
			when: given,
		},
		by: {
			kind: "choice",
			label: "Found by",
			default: "faces",
			choices: [
				{ id: "faces", label: "Shared faces", help: "Pieces of one break, by the faces that they share" },
				{ id: "near", label: "Closeness", help: "Whatever faces each other within a distance" },
			],
			help: "What counts as touching",
		},
		reach: {
			kind: "number",
			label: "Within",
			unit: "m",
			default: 0.005,
			least: 0,
			most: 10,
			help: "Largest gap that a bond bridges",
		},
		radius: {
			kind: "number",
			label: "Search radius",
			unit: "m",
			default: 0,
			least: 0,
			most: 1000,
			help: "What is farther from middle to middle is not bonded; 0 for any distance",
			when: ({ by }) => by === "near",
		},
		most: {
			kind: "number",
			label: "Most per piece",
			unit: "",
			default: 32,
			least: 1,
			most: 256,
			whole: true,
			help: "The largest faces are kept",
			when: ({ by }) => by === "near",
		},
		among: {
			kind: "choice",
			label: "Between",
			default: "own",
			choices: [
				{ id: "own", label: "One object", help: "Pieces of one object only" },
				{ id: "all", label: "All", help: "Pieces and objects of different parents too" },
			],
			help: "Whether objects are tied to each other",
			when: ({ by }) => by === "near",
		},
		foot: {
			kind: "choice",
			label: "Foot",
			default: "none",
			choices: [
				{ id: "none", label: "Loose", help: "Stands or lies by its weight" },
				{ id: "touching", label: "Held", help: "Bonded to the passive things that it stands on or touches" },
			],
			help: "Whether the ground and passive things hold it",
		},
		uneven: {
			kind: "number",
			label: "Uneven",
			unit: "",
			percent: true,
			default: 0,
			least: 0,
			most: 1,
			help: "How much weaker than said some places are, by noise",
			when: breaks,
		},
		grain: {
			kind: "number",
			label: "Grain",
			unit: "m",
			default: 0.4,
			least: 0.001,
			most: 1000,
			help: "Size of the weak places",
			when: ({ uneven }) => Number(uneven) > 0,
		},
		slabs: {
			kind: "number",
			label: "Slabs",
			unit: "",
			default: 0,
			least: 0,
			most: 10_000,
			whole: true,
			help: "How many larger parts an object comes off in before they crumble; 0 for none",
			when: breaks,
		},
		grouped: {
			kind: "choice",
			label: "Grouped",
			default: "near",
			choices: [
				{ id: "near", label: "Evenly", help: "Round ones, about as large as each other" },
				{ id: "noise", label: "By noise", help: "They wind, and are of many sizes" },
			],
			help: "What slabs and their parts look like",
			when: ({ slabs, chunks }) => Number(slabs) > 0 || Number(chunks) > 0,
		},
		within: {
			kind: "number",
			label: "Inside slabs",
			unit: "×",
			default: 4,
			least: 1,
			most: 1000,
			help: "How much stronger bonds inside a slab are than those between",
			when: hasSlabs,
		},
		chunks: {
			kind: "number",
			label: "Parts per slab",
			unit: "",
			default: 0,
			least: 0,
			most: 1000,
			whole: true,
			help: "A second level: each slab holds so many parts; 0 for none",
			when: hasSlabs,
		},
		chunkWithin: {
			kind: "number",
			label: "Inside parts",
			unit: "×",
			default: 4,
			least: 1,
			most: 1000,
			help: "How much stronger again bonds inside a part are",
			when: (options) => hasSlabs(options) && Number(options.chunks) > 0,
		},
		yields: {
			kind: "number",
			label: "Yields from",
			unit: "",
			percent: true,
			default: 1,
			least: 0.05,
			most: 1,
			help: "Share of its strength from which a bond is damaged: a second blow finishes what the first began. 100 % breaks clean",
			when: breaks,
		},
		fades: {
			kind: "choice",
			label: "Over frames",
			default: "never",
			choices: [
				{ id: "never", label: "Stays", help: "As strong as at the first frame" },
				{ id: "frames", label: "Changes", help: "Rots, melts or sets, as the curve says" },
			],
			help: "Whether the strength changes by itself",
			when: breaks,
		},
		fade: {
			kind: "curve",
			label: "Strength left",
			default: [1, 1, 120, 0],
			across: { label: "Frame", unit: "" },
			least: 0,
			most: 1,
			percent: true,
			help: "Share of the strength by frame",
			when: ({ fades }) => fades === "frames",
		},
		dust: {
			kind: "number",
			label: "Crumbles below",
			unit: "m",
			default: 0,
			least: 0,
			most: 100,
			help: "Pieces no larger than this crumble once they have come off all round. 0: none do",
			when: breaks,
		},
		dustAfter: {
			kind: "number",
			label: "Crumbles after",
			unit: "s",
			default: 0.5,
			least: 0,
			most: 60,
			help: "So long after it has come off",
			when: crumbles,
		},
		leaves: {
			kind: "choice",
			label: "Leaves",
			default: "nothing",
			choices: [
				{ id: "nothing", label: "Nothing", help: "Dust: it leaves the picture and the run" },
				{ id: "stones", label: "Small stones", help: "Stones that fill its room, weigh what it did and fly on as it did" },
			],
			help: "What is left of a piece that crumbles",
			when: crumbles,
		},
		stones: {
			kind: "number",
			label: "Stones each",
			unit: "",
			default: 4,
			least: 2,
			most: 12,
			whole: true,
			help: "How many stones a piece leaves; each is one more body in the run",
			when: (options) => crumbles(options) && options.leaves === "stones",
		},
		seed: seedSpec("pattern of slabs and weak places"),
	},
};

/** The bond sets of a shot that are not hidden, in the order in which they say what a pair is, with all of their options. */
export const activeBondSets = ({ bondSets }: Shot): { readonly id: Id; readonly options: BondOptions }[] =>
	Object.keys(bondSets)
		.sort()
		.filter((id) => !bondSets[id]!.hidden)
		.map((id) => ({ id, options: { ...optionDefaults(BOND_SET), ...bondSets[id]!.options } as unknown as BondOptions }));
