import { linkNames, linkProperties, readLink } from "@rubble/core/links";
import { type Id, type Link, objectPath, orderedObjects, removeLink, setLink } from "@rubble/core/shot";
import { Plus, Trash2 } from "lucide-react";
import { Picker, Segments } from "~/controls/Choice";
import { Section } from "~/controls/Section";
import { TextField } from "~/controls/TextField";
import { newId } from "~/workbench/ids";
import { currentObject } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";

/** Numbers of what is picked that follow another object: a coil stretches with the weight that hangs from it. */
export function LinksSection() {
	const { shot, selection, perform } = useWorkbench();
	const id = currentObject({ shot, selection });
	const links = Object.entries(shot.links).filter(([, link]) => id === undefined || link.object === id);
	const add = () => {
		const properties = linkProperties(shot, id!);
		const property = properties.find((one) => one.id === "pitch") ?? properties[0]!;
		const source = orderedObjects(shot).find((other) => other !== id && shot.bodies[other]?.kind === "active") ?? "";
		perform(
			setLink(newId(), {
				object: id!,
				property: property.id,
				source,
				formula: property.id === "pitch" ? "-(height - height0) / turns" : "height - height0",
				keeps: property.id === "pitch" ? "top" : "middle",
				hidden: false,
			}),
		);
	};
	return (
		<Section title="Links" aside={links.length > 0 ? links.length : undefined}>
			{links.length === 0 && (
				<p className="text-slate">A number that follows another object by a formula: a coil's pitch goes with the weight on it.</p>
			)}
			{links.map(([linkId, link]) => (
				<LinkFields key={linkId} id={linkId} link={link} />
			))}
			<button type="button" className="button" disabled={id === undefined} onClick={add}>
				<Plus size={14} /> {id === undefined ? "Pick what shall follow" : `Link ${shot.objects[id]!.name}`}
			</button>
		</Section>
	);
}

function LinkFields({ id, link }: { id: Id; link: Link }) {
	const { shot, perform } = useWorkbench();
	const properties = linkProperties(shot, link.object);
	const read = readLink(shot, link);
	const change = (next: Partial<Link>) => perform(setLink(id, { ...link, ...next }));
	return (
		<fieldset className="flex flex-col gap-1.5 rounded-md border border-line p-2">
			<div className="flex items-center justify-between gap-2">
				<span className="text-slate">{shot.objects[link.object]?.name}</span>
				<button type="button" className="button px-2!" aria-label="Remove this link" onClick={() => perform(removeLink(id))}>
					<Trash2 size={14} />
				</button>
			</div>
			<Picker label="Changes" value={link.property} options={properties} onChange={(property) => change({ property })} />
			<Picker
				label="Follows"
				value={link.source}
				options={orderedObjects(shot)
					.filter((other) => other !== link.object)
					.map((other) => ({ id: other, label: objectPath(shot, other) }))}
				onChange={(source) => change({ source })}
			/>
			<TextField
				label="By"
				help={`Added to what it is set to. Names: ${Object.keys(linkNames(shot, link.object)).join(", ")}`}
				value={link.formula}
				onChange={(formula) => change({ formula })}
			/>
			{!read.ok && (
				<p role="alert" className="text-xs text-rust">
					{read.problems[0]!.message}
				</p>
			)}
			<Segments
				label="Stays"
				help="Which end of it stays where it is"
				value={link.keeps}
				options={[
					{ id: "top", label: "Top" },
					{ id: "middle", label: "Middle" },
					{ id: "bottom", label: "Foot" },
				]}
				onChange={(keeps) => change({ keeps: keeps as Link["keeps"] })}
			/>
		</fieldset>
	);
}
