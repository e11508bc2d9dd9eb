import { removeWorld, setWorld } from "@rubble/core/shot";
import { Plus, Trash2 } from "lucide-react";
import { Section } from "~/controls/Section";
import { TextField } from "~/controls/TextField";
import { VectorField } from "~/controls/VectorField";
import { newId } from "~/workbench/ids";
import { useWorkbench } from "~/workbench/store/store";
import { BringIn } from "./BringIn";

/** Worlds beside the main one: only bodies of one world meet. */
export function WorldsSection() {
	const { shot, bodies, perform } = useWorkbench();
	const worlds = Object.entries(shot.worlds).sort(([a], [b]) => (a < b ? -1 : 1));
	const members = (id: string) => bodies.filter((body) => body.settings.world === id && body.settings.kind !== "none").length;
	return (
		<Section title="Worlds" aside={worlds.length > 0 ? worlds.length + 1 : undefined}>
			{worlds.length === 0 && (
				<p className="text-slate">One world. In a second one things fall by their own gravity and never meet those of the first.</p>
			)}
			{worlds.map(([id, world]) => (
				<fieldset key={id} className="flex flex-col gap-1.5 rounded-md border border-line p-2">
					<div className="flex items-end gap-1.5">
						<div className="min-w-0 flex-1">
							<TextField
								label="World"
								value={world.name}
								onChange={(name) => perform(setWorld(id, { ...world, name: name.trim() || world.name }))}
							/>
						</div>
						<button type="button" className="button px-2!" aria-label={`Remove ${world.name}`} onClick={() => perform(removeWorld(id))}>
							<Trash2 size={14} />
						</button>
					</div>
					<VectorField
						label="Pull"
						unit="m/s²"
						value={world.gravity}
						onChange={(gravity) => perform(setWorld(id, { ...world, gravity }))}
					/>
					<p className="number text-xs text-slate">{members(id).toLocaleString("en")} bodies · give them this world in Weigh</p>
				</fieldset>
			))}
			<button
				type="button"
				className="button"
				onClick={() => perform(setWorld(newId(), { name: `World ${worlds.length + 2}`, gravity: shot.settings.gravity }))}
			>
				<Plus size={14} /> Add a world
			</button>
			<BringIn />
		</Section>
	);
}
