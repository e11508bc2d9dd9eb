import { WORLD } from "@rubble/core/connectors";
import { useState } from "react";
import { Segments } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { Section } from "~/controls/Section";
import { useWorkbench } from "~/workbench/store/store";
import { pickedObjects } from "./bonds";
import { makeChain, makeRope, placeOf, taut } from "./connect";
import { PartnerField } from "./PartnerField";

/** Chains from the picked link, and ropes. */
export function ChainSection() {
	const { shot, selection, reports } = useWorkbench();
	const [what, setWhat] = useState<"chain" | "rope">("chain");
	const [count, setCount] = useState(12);
	const [length, setLength] = useState(2);
	const [thickness, setThickness] = useState(0.015);
	const [bending, setBending] = useState(0);
	const [top, setTop] = useState<string>(WORLD);
	const [hero, setHero] = useState("");
	const link = pickedObjects().find((id) => reports[id] && shot.objects[id]?.source.kind !== "array");
	const pitch = link === undefined ? 0 : taut(link);
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
					<p className="number text-xs text-slate">
						{link === undefined
							? "Pick one link, a ring such as a torus."
							: `${(count * pitch).toFixed(2)} m long, ${(1000 * pitch).toFixed(0)} mm from link to link`}
					</p>
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
						? makeChain({ link: link!, count, top, hero, pitch })
						: makeRope({ length, thickness, parts, bending, top, hero, from })
				}
			>
				Make {what}
			</button>
		</Section>
	);
}
