import { WORLD } from "@rubble/core/connectors";
import { formatQuantity } from "@rubble/core/shot";
import { useState } from "react";
import { Segments } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { Section } from "~/controls/Section";
import { useWorkbench } from "~/workbench/store/store";
import { pickedObjects } from "./bonds";
import { makeChain, makeRope, placeOf, SLACK, taut } from "./connect";
import { PartnerField } from "./PartnerField";

/** Chains from the picked link, and ropes. */
export function ChainSection() {
	const { shot, selection, reports } = useWorkbench();
	const [what, setWhat] = useState<"chain" | "rope">("chain");
	const [count, setCount] = useState(12);
	const [holds, setHolds] = useState<"pins" | "contacts">("pins");
	const [length, setLength] = useState(2);
	const [thickness, setThickness] = useState(0.015);
	const [bending, setBending] = useState(0);
	const [top, setTop] = useState<string>(WORLD);
	const [hero, setHero] = useState("");
	const link = pickedObjects().find((id) => reports[id] && shot.objects[id]?.source.kind !== "array");
	const pitch = link === undefined ? 0 : taut(link) * (holds === "contacts" ? SLACK : 1);
	const parts = Math.max(2, Math.round(length / Math.max(0.02, 6 * thickness)));
	const from = (top !== WORLD && placeOf(shot, top)) || [0, 3, 0];
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
					<NumberField label="Links" help="How many" unit="" whole least={2} most={500} digits={4} value={count} onChange={setCount} />
					{link === undefined ? (
						<p className="text-xs text-slate">Pick one link, a ring such as a torus.</p>
					) : (
						<NumberField
							label="Length"
							help={`From end to end, ${formatQuantity(pitch, "length", 3)} from link to link: as many links as come nearest to it`}
							unit="m"
							least={2 * pitch}
							most={500 * pitch}
							digits={4}
							value={count * pitch}
							onChange={(wanted) => setCount(Math.min(500, Math.max(2, Math.round(wanted / pitch))))}
						/>
					)}
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
						value={length}
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
			<PartnerField label="Hangs from" value={top} none="Nothing" world onChange={setTop} />
			<PartnerField label="Carries" value={hero} none="Nothing" onChange={setHero} />
			<button
				type="button"
				className="button"
				disabled={what === "chain" && (link === undefined || selection.length === 0)}
				onClick={() =>
					what === "chain"
						? makeChain({ link: link!, count, top, hero, pitch, holds })
						: makeRope({ length, thickness, parts, bending, top, hero, from })
				}
			>
				Make {what}
			</button>
		</Section>
	);
}
