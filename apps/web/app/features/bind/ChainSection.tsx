import { WORLD } from "@rubble/core/connectors";
import { vec3 } from "@rubble/core/maths";
import { formatQuantity } from "@rubble/core/shot";
import { useState } from "react";
import { Segments } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { Section } from "~/controls/Section";
import { pickedSolids } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";
import { isRing, makeChain, makeRope, SLACK, taut } from "./chains";
import { placeOf } from "./connect";
import { endsBetween, hangsBetween } from "./hanging";
import { PartnerField } from "./PartnerField";

const USUAL_LINKS = 12;
const MOST_LINKS = 500;
/** Metres. */
const USUAL_ROPE = 2;
/** What hangs between two things is so much longer than the way between them, if nothing else is said. */
const SAGS = 1.1;

const round = (metres: number): number => Number(metres.toPrecision(3));

/** Links that come nearest to a length. */
const linksFor = (metres: number, pitch: number): number => Math.min(MOST_LINKS, Math.max(2, Math.round(metres / pitch)));

/** Chains from the picked link, and ropes. */
export function ChainSection() {
	const { shot, selection, reports } = useWorkbench();
	const [what, setWhat] = useState<"chain" | "rope">("chain");
	const [wanted, setWanted] = useState<{ readonly count?: number; readonly top?: string; readonly hero?: string }>({});
	const [holdsRings, setHolds] = useState<"pins" | "contacts">("pins");
	const [length, setLength] = useState<number>();
	const [thickness, setThickness] = useState(0.015);
	const [bending, setBending] = useState(0);
	const link = pickedSolids(useWorkbench.getState()).find((id) => reports[id] && shot.objects[id]?.source.kind !== "array");
	// What stands above and below the link says what is likely; what has been set here holds.
	const likely = what === "rope" || link === undefined ? { top: WORLD, hero: "", drop: 0 } : hangsBetween(shot, reports, link);
	const { top, hero } = { ...likely, ...wanted };
	const ring = link === undefined || isRing(link);
	const holds = ring ? holdsRings : "pins";
	const pitch = link === undefined ? 0 : taut(link) * (holds === "contacts" ? SLACK : 1);
	// Between two things that are not above each other it sags.
	const isReady = what === "rope" || link !== undefined;
	const ends = isReady ? endsBetween(shot, reports, top, hero, what === "chain" ? link : undefined) : undefined;
	const apart = ends ? vec3.length(vec3.subtract(ends.to, ends.from)) : 0;
	const usual = ends ? linksFor(SAGS * apart, pitch) : likely.drop > pitch ? linksFor(likely.drop + pitch / 2, pitch) : USUAL_LINKS;
	const count = wanted.count ?? usual;
	const metres = length ?? (ends ? round(SAGS * apart) : USUAL_ROPE);
	const parts = Math.max(2, Math.round(metres / Math.max(0.02, 6 * thickness)));
	const from = ends?.from ?? ((top !== WORLD && placeOf(shot, top)) || [0, 3, 0]);
	const isShort = (what === "chain" ? count * pitch : metres) < apart;
	return (
		<Section title="Chains and ropes">
			<Segments
				label="Make"
				value={what}
				options={[
					{ id: "chain", label: "Chain", help: "Real links, copied from the one that is picked" },
					{ id: "rope", label: "Rope", help: "Short capsules, each pinned to the next" },
				]}
				onChange={(id) => setWhat(id as typeof what)}
			/>
			{what === "chain" ? (
				<>
					<NumberField
						label="Links"
						help="How many"
						unit=""
						whole
						least={2}
						most={MOST_LINKS}
						digits={4}
						value={count}
						onChange={(next) => setWanted({ ...wanted, count: next })}
					/>
					{link === undefined ? (
						<p className="text-xs text-slate">Pick one link: a ring such as a torus, or anything else that is to be pinned end to end.</p>
					) : (
						<NumberField
							label="Length"
							help={`From end to end, ${formatQuantity(pitch, "length", 3)} from link to link: as many links as come nearest to it`}
							unit="m"
							least={2 * pitch}
							most={MOST_LINKS * pitch}
							digits={4}
							value={count * pitch}
							onChange={(metres) => setWanted({ ...wanted, count: linksFor(metres, pitch) })}
						/>
					)}
					{ring ? (
						<Segments
							label="Holds by"
							value={holds}
							options={[
								{ id: "pins", label: "Pins", help: "Each link is pinned to the next: holds at any load" },
								{
									id: "contacts",
									label: "Contacts",
									help: "Links hang in each other by touching alone: they rattle and turn freely, and bear ten times their own mass",
								},
							]}
							onChange={(id) => setHolds(id as typeof holds)}
						/>
					) : (
						<p className="text-xs text-slate">It is no ring: each is pinned to the end of the one before.</p>
					)}
				</>
			) : (
				<>
					<NumberField
						label="Length"
						help="From end to end"
						unit="m"
						least={0.05}
						most={1000}
						digits={4}
						value={metres}
						onChange={setLength}
					/>
					<NumberField
						label="Thickness"
						help="Its radius"
						unit="mm"
						factor={1000}
						least={0.001}
						most={1}
						digits={4}
						value={thickness}
						onChange={setThickness}
					/>
					<NumberField
						label="Stiffness"
						help="Moment for each radian that it is bent from part to part"
						unit="N m"
						least={0}
						most={100_000}
						digits={4}
						value={bending}
						onChange={setBending}
					/>
					<p className="number text-xs text-slate">{parts} parts</p>
				</>
			)}
			<PartnerField label="Hangs from" value={top} none="Nothing" world onChange={(id) => setWanted({ ...wanted, top: id })} />
			<PartnerField label="Carries" value={hero} none="Nothing" onChange={(id) => setWanted({ ...wanted, hero: id })} />
			{ends && (
				<p className={`text-xs ${isShort ? "text-rust" : "text-slate"}`}>
					{isShort
						? `Too short: the two are ${formatQuantity(apart, "length")} apart.`
						: `It sags between the two, which are ${formatQuantity(apart, "length")} apart.`}
				</p>
			)}
			<button
				type="button"
				className="button"
				disabled={isShort || !isReady || (what === "chain" && selection.length === 0)}
				onClick={() =>
					what === "chain"
						? makeChain({ link: link!, count, top, hero, pitch, holds, ends })
						: makeRope({ length: metres, thickness, parts, bending, top, hero, from, to: ends?.to })
				}
			>
				Make {what}
			</button>
		</Section>
	);
}
