import { editMaterial, formatNumber, type Id, setMaterial } from "@rubble/core/shot";
import { ImagePlus } from "lucide-react";
import { useState } from "react";
import { Picker } from "~/controls/Choice";
import { ColourField } from "~/controls/ColourField";
import { FileButton } from "~/controls/FileButton";
import { Labelled } from "~/controls/Labelled";
import { NumberField } from "~/controls/NumberField";
import { Section } from "~/controls/Section";
import { useWorkbench } from "~/workbench/store/store";
import { madeOf, wearPicture } from "./wearPicture";

/** What an object is made of, and what that is like. Everything of the material changes with it. */
export function MaterialSection({ id }: { id: Id }) {
	const { shot, perform } = useWorkbench();
	const [open, setOpen] = useState(false);
	const item = shot.objects[id]!;
	const material = shot.materials[item.material]!;
	const users = madeOf(shot, item.material);
	const change = (part: Parameters<typeof editMaterial>[1]) => perform(editMaterial(item.material, part));
	const share = (label: string, field: "roughness" | "metalness" | "opacity", help: string) => (
		<NumberField
			label={label}
			help={help}
			unit="%"
			factor={100}
			least={0}
			most={1}
			value={material[field]}
			onChange={(value) => change({ [field]: value })}
		/>
	);
	return (
		<Section title="Material" aside={`${formatNumber(material.density, 4)} kg/m³`}>
			<Picker
				label="Made of"
				help="Look, density, friction and bounce"
				value={item.material}
				options={Object.entries(shot.materials).map(([key, { name }]) => ({ id: key, label: name }))}
				onChange={(next) => perform(setMaterial([id], next))}
			/>
			<button type="button" className="link-action self-start" aria-expanded={open} onClick={() => setOpen(!open)}>
				{open ? "Close" : `Edit ${material.name.toLowerCase()}`}
			</button>
			{open && (
				<>
					<p className="text-slate">
						{users === 1 ? "Only this object is made of it." : `${users} objects are made of it; all of them change.`}
					</p>
					<ColourField label="Colour" value={material.colour} onChange={(colour) => change({ colour })} />
					<Labelled label="Picture">
						<div className="flex gap-1.5">
							<FileButton accept="image/png,image/jpeg" onFile={(file) => void wearPicture(file, item.material)}>
								<ImagePlus size={14} /> {material.texture ? "Another" : "Open"}
							</FileButton>
							{material.texture && (
								<button type="button" className="button" onClick={() => change({ texture: undefined })}>
									None
								</button>
							)}
						</div>
					</Labelled>
					{material.texture && (
						<NumberField
							label="Covers"
							unit="m"
							help="Length that the picture covers before it begins again; meshes with texture coordinates of their own keep those"
							least={0.001}
							most={1000}
							value={material.texture.size}
							onChange={(size) => change({ texture: { ...material.texture!, size } })}
						/>
					)}
					{share("Roughness", "roughness", "0 % mirrors, 100 % is dull")}
					{share("Metalness", "metalness", "Whether it reflects like metal")}
					{share("Opacity", "opacity", "0 % is not to be seen")}
					<NumberField
						label="Density"
						unit="kg/m³"
						least={0.01}
						most={25_000}
						value={material.density}
						onChange={(density) => change({ density })}
					/>
					<NumberField
						label="Friction"
						help="0 is like wet ice, 1 like rubber"
						least={0}
						most={5}
						value={material.friction}
						onChange={(friction) => change({ friction })}
					/>
					<NumberField
						label="Bounce"
						unit="%"
						factor={100}
						help="How much of its speed a thing keeps when it hits"
						least={0}
						most={1}
						value={material.bounce}
						onChange={(bounce) => change({ bounce })}
					/>
				</>
			)}
		</Section>
	);
}
