import { lookAlong } from "@rubble/core/maths";
import { addObject, CAMERA_DEFAULTS, type CameraSource, type Id, objectPath, placeObject, setCamera, together } from "@rubble/core/shot";
import { Camera, Crosshair } from "lucide-react";
import { Picker } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { Section } from "~/controls/Section";
import { newId } from "~/workbench/ids";
import { useWorkbench } from "~/workbench/store/store";
import { sightNow } from "~/workbench/view/sight";

/** A camera where the view looks from now. */
export function addCamera(): void {
	const { perform, select } = useWorkbench.getState();
	const { position, forward } = sightNow();
	const id = newId();
	perform(
		together("Add camera", [
			addObject({ id, name: "Camera", source: CAMERA_DEFAULTS, translation: position }),
			placeObject(id, { rotation: lookAlong(forward) }),
		]),
	);
	select([id]);
}

/** A beacon in the middle of what the view looks at. */
export function addBeacon(): void {
	const { perform, select } = useWorkbench.getState();
	const id = newId();
	perform(addObject({ id, name: "Beacon", source: { kind: "beacon" }, translation: sightNow().target }));
	select([id]);
}

export function HelperButtons() {
	return (
		<div className="mt-1.5 grid grid-cols-2 gap-1.5">
			<button type="button" className="button" title="Where the view looks from now" onClick={addCamera}>
				<Camera size={15} /> Add camera
			</button>
			<button type="button" className="button" title="A point to aim at, to be keyed" onClick={addBeacon}>
				<Crosshair size={15} /> Add beacon
			</button>
		</div>
	);
}

const NOTHING = "-";

export function CameraSection({ id }: { id: Id }) {
	const { shot, perform, camera, set } = useWorkbench();
	const item = shot.objects[id]!;
	const source = item.source as CameraSource;
	const through = camera === id;
	return (
		<Section title={item.name} aside="Camera">
			<button
				type="button"
				className={`button ${through ? "button-primary" : ""}`}
				aria-pressed={through}
				onClick={() => set({ camera: through ? "free" : id })}
			>
				<Camera size={15} /> {through ? "Leave the camera" : "Look through it"}
			</button>
			<NumberField
				label="Field of view"
				unit="°"
				help="From the lower to the upper edge; 20 is a long lens, 70 a wide one"
				least={1}
				most={170}
				value={source.fieldOfView}
				onChange={(fieldOfView) => perform(setCamera(id, { fieldOfView }))}
			/>
			<NumberField
				label="Near"
				unit="m"
				least={0.001}
				most={source.far * 0.999}
				help="Nearer things are not seen"
				value={source.near}
				onChange={(near) => perform(setCamera(id, { near }))}
			/>
			<NumberField
				label="Far"
				unit="m"
				least={source.near * 1.001}
				most={100_000}
				help="Farther things are not seen"
				value={source.far}
				onChange={(far) => perform(setCamera(id, { far }))}
			/>
			<Picker
				label="Aims at"
				help="It turns so that this stays in the middle"
				value={source.aim ?? NOTHING}
				options={[
					{ id: NOTHING, label: "Nothing: as it is turned" },
					...Object.keys(shot.objects)
						.filter((other) => other !== id)
						.map((other) => ({ id: other, label: objectPath(shot, other) })),
				]}
				onChange={(aim) => perform(setCamera(id, { aim: aim === NOTHING ? null : aim }))}
			/>
			<button
				type="button"
				className="button"
				title="Puts the camera where the view is now"
				disabled={through}
				onClick={() => {
					const { position, forward } = sightNow();
					perform(placeObject(id, { translation: position, rotation: lookAlong(forward) }));
				}}
			>
				Place it where I look from
			</button>
		</Section>
	);
}

export function BeaconSection({ id }: { id: Id }) {
	const { shot } = useWorkbench();
	const aiming = Object.values(shot.objects).filter(({ source }) => source.kind === "camera" && source.aim === id);
	return (
		<Section title={shot.objects[id]!.name} aside="Beacon">
			<p className="text-slate">
				{aiming.length > 0
					? `${aiming.map(({ name }) => name).join(", ")} aims at it.`
					: "A point to aim a camera at. It can be moved, keyed and grouped."}
			</p>
		</Section>
	);
}
