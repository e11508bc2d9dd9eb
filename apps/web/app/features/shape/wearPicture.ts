import { editMaterial, type Id, isBodiless, objectOf, type Shot } from "@rubble/core/shot";
import { toast } from "sonner";
import { currentObject } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";
import { coreWorker } from "~/workers/client";

export const isPicture = (file: File): boolean => /^image\/(png|jpeg)$/.test(file.type);

/** How many objects are made of a material. */
export const madeOf = ({ objects }: Shot, material: string): number =>
	Object.values(objects).filter((item) => item.material === material && (item.source.kind === "shape" || item.source.kind === "mesh"))
		.length;

/** A picture on everything of this material; false where it cannot be read, which is said. */
export async function wearPicture(file: File, material: string): Promise<boolean> {
	try {
		const picture = await coreWorker().keepPicture(new Uint8Array(await file.arrayBuffer()));
		useWorkbench.getState().perform(editMaterial(material, { texture: { picture, size: 1 } }));
		return true;
	} catch (error) {
		toast.error(`${file.name}: ${(error as Error).message}`);
		return false;
	}
}

/** A picture that was dropped on a body, or beside all of them: then what is picked wears it. */
export function dropPicture(file: File, on: string | undefined): void {
	const { shot, selection } = useWorkbench.getState();
	const id: Id | undefined = on === undefined ? currentObject({ shot, selection }) : objectOf(shot, on);
	const item = shot.objects[id ?? ""];
	const material = item && !isBodiless(item) ? item.material : undefined;
	if (material === undefined || !shot.materials[material]) {
		toast(`Drop ${file.name} on what shall wear it.`);
		return;
	}
	const count = madeOf(shot, material);
	const { name } = shot.materials[material];
	void wearPicture(file, material).then((worn) => {
		if (worn && count > 1)
			toast(`All ${count} objects of ${name.toLowerCase()} wear it. Give one another material first to dress it alone.`);
	});
}
