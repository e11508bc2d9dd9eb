import { FIELD_OF_VIEW, fieldOfViewAt, worldPose } from "@rubble/core/animation";
import { keyedInside } from "@rubble/core/bodies";
import { lookAlong } from "@rubble/core/maths";
import {
	addObject,
	type BodilessSource,
	CAMERA_DEFAULTS,
	type CameraSource,
	type Id,
	LIGHT_DEFAULTS,
	type LightSource,
	objectPath,
	placeObject,
	type RegionSource,
	type SceneObject,
	setHelper,
	setNumberKey,
	setScenery,
	tickOfFrame,
	together,
} from "@rubble/core/shot";
import { Camera, Crosshair, SquareDashed, Sun } from "lucide-react";
import { toast } from "sonner";
import { Picker, Segments } from "~/controls/Choice";
import { ColourField } from "~/controls/ColourField";
import { NumberField } from "~/controls/NumberField";
import { Section } from "~/controls/Section";
import { TileButton } from "~/controls/TileButton";
import { newId } from "~/workbench/ids";
import { useWorkbench } from "~/workbench/store/store";
import { sightNow } from "~/workbench/view/eye";
import { KeyDiamond } from "../keys/KeyDiamond";

/** A camera where the view looks from now. It aims at the beacon that is picked, if any. */
export function addCamera(): void {
	const { shot, selection, perform, select } = useWorkbench.getState();
	const { position, forward } = sightNow();
	const id = newId();
	const aim = selection.find((one) => shot.objects[one]?.source.kind === "beacon") ?? null;
	perform(
		together("Add camera", [
			addObject({ id, name: "Camera", source: { ...CAMERA_DEFAULTS, aim }, translation: position }),
			placeObject(id, { rotation: lookAlong(forward) }),
		]),
	);
	select([id]);
}

/** Something that helps, in the middle of what the view looks at. */
function addHelper(name: string, source: BodilessSource, more: Partial<Pick<SceneObject, "rotation">> = {}): void {
	const { perform, select } = useWorkbench.getState();
	const id = newId();
	const { target } = sightNow();
	const place = source.kind === "light" ? ([target[0], target[1] + 3, target[2]] as const) : target;
	perform(together(`Add ${name.toLowerCase()}`, [addObject({ id, name, source, translation: place }), placeObject(id, more)]));
	select([id]);
}

/** From above, over the left shoulder. */
const SUN_FROM = lookAlong([0.35, -0.8, -0.48]);

const HELPERS: readonly { readonly label: string; readonly title: string; readonly icon: React.ReactNode; readonly add: () => void }[] = [
	{
		label: "Camera",
		title: "Where the view looks from now; aims at the beacon that is picked",
		icon: <Camera size={15} />,
		add: addCamera,
	},
	{
		label: "Beacon",
		title: "A point to aim at, to break around, to be keyed",
		icon: <Crosshair size={15} />,
		add: () => addHelper("Beacon", { kind: "beacon" }),
	},
	{
		label: "Region",
		title: "A part of the room that rules can ask for: in Region",
		icon: <SquareDashed size={15} />,
		add: () => addHelper("Region", { kind: "region", form: "box" }),
	},
	{
		label: "Light",
		title: "A sun or a lamp; the first one takes the place of the view's own sun",
		icon: <Sun size={15} />,
		add: () => addHelper("Light", LIGHT_DEFAULTS.sun, { rotation: SUN_FROM }),
	},
];

export function HelperButtons() {
	return (
		<div className="mt-1.5 grid grid-cols-4 gap-1.5">
			{HELPERS.map(({ label, title, icon, add }) => (
				<TileButton key={label} label={label} title={title} icon={icon} name={`Add ${label.toLowerCase()}`} onClick={add} />
			))}
		</div>
	);
}

/** What stands around everything: shown while nothing is picked. */
export function ScenerySection() {
	const { shot, perform } = useWorkbench();
	const { backdrop, sky } = shot.scenery;
	return (
		<Section title="Scenery">
			<ColourField
				label="Backdrop"
				help="Behind everything; the ground is toned towards it"
				value={backdrop}
				onChange={(next) => perform(setScenery({ backdrop: next }))}
			/>
			<NumberField
				label="Sky light"
				unit="%"
				factor={100}
				least={0}
				most={100}
				help="Light from all sides; 100 % is a bright day"
				value={sky}
				onChange={(next) => perform(setScenery({ sky: next }))}
			/>
		</Section>
	);
}

export function LightSection({ id }: { id: Id }) {
	const { shot, perform } = useWorkbench();
	const source = shot.objects[id]!.source as LightSource;
	return (
		<Section title={shot.objects[id]!.name} aside="Light">
			<Segments
				label="Kind"
				value={source.light}
				options={[
					{ id: "sun", label: "Sun", help: "Shines the same way everywhere: turn it to aim it" },
					{ id: "lamp", label: "Lamp", help: "Shines all around from where it is" },
				]}
				onChange={(light) => perform(setHelper(id, "light", { ...LIGHT_DEFAULTS[light as LightSource["light"]], colour: source.colour }))}
			/>
			<ColourField label="Colour" value={source.colour} onChange={(colour) => perform(setHelper(id, "light", { colour }))} />
			<NumberField
				label="Strength"
				unit={source.light === "sun" ? "lx" : "lm"}
				help={
					source.light === "sun"
						? "A clear noon has about 100,000 lux, an overcast day 10,000"
						: "A bright bulb has 1,500 lumens, a floodlight 20,000"
				}
				least={0}
				most={1e7}
				value={source.strength}
				onChange={(strength) => perform(setHelper(id, "light", { strength }))}
			/>
		</Section>
	);
}

export function RegionSection({ id }: { id: Id }) {
	const { shot, perform, reports } = useWorkbench();
	const item = shot.objects[id]!;
	const source = item.source as RegionSource;
	const solids = Object.keys(shot.objects)
		.filter((other) => reports[other]?.closed)
		.map((other) => ({ id: other, label: objectPath(shot, other) }));
	const takeForm = (solid: Id) =>
		perform(
			together("Set region", [
				setHelper(id, "region", { form: "solid", solid }),
				placeObject(id, { ...keyedInside(shot, id, worldPose(shot, solid, 0), 0), scale: [1, 1, 1] }),
			]),
		);
	return (
		<Section title={item.name} aside="Region">
			<Segments
				label="Form"
				value={source.form}
				options={[
					{ id: "box", label: "Box", help: "As long, high and deep as its size says, in metres" },
					{ id: "ball", label: "Ball", help: "As far across as its size says, in metres" },
					{ id: "solid", label: "Object", help: "The form of any closed object" },
				]}
				onChange={(form) =>
					form !== "solid"
						? perform(setHelper(id, "region", { form: form as "box" | "ball" }))
						: solids.length > 0
							? takeForm(solids[0]!.id)
							: toast("There is no closed object yet whose form it could take.")
				}
			/>
			{source.form === "solid" && (
				<Picker
					label="Form of"
					help="It is put where that stands, at its size, and goes its own way from there"
					value={source.solid ?? ""}
					options={solids}
					onChange={takeForm}
				/>
			)}
			{source.form === "solid" && !solids.some((solid) => solid.id === source.solid) && (
				<p className="text-rust">What it has its form from is gone or not closed: nothing is in it. Choose another.</p>
			)}
			<p className="text-slate">
				Rules ask for it by name: <code className="number">in {/\s/.test(item.name) ? `"${item.name}"` : item.name}</code> is everything
				that stands in it at the first frame.
			</p>
		</Section>
	);
}

const NOTHING = "-";

export function CameraSection({ id }: { id: Id }) {
	const { shot, frame, perform, camera, set } = useWorkbench();
	const item = shot.objects[id]!;
	const tick = tickOfFrame(shot.settings, frame);
	const fieldOfView = fieldOfViewAt(shot, id, tick);
	const source = item.source as CameraSource;
	const through = camera === id;
	return (
		<Section title={item.name} aside="Camera">
			<button
				type="button"
				className={`button ${through ? "button-primary" : ""}`}
				aria-pressed={through}
				title="L"
				onClick={() => set({ camera: through ? "free" : id })}
			>
				<Camera size={15} /> {through ? "Leave the camera" : "Look through it"}
			</button>
			<div className="flex items-center gap-1.5">
				<div className="min-w-0 flex-1">
					<NumberField
						label="Field of view"
						unit="°"
						help="From the lower to the upper edge; 20 is a long lens, 70 a wide one. Can be keyed"
						least={1}
						most={170}
						value={fieldOfView}
						onChange={(next) =>
							perform(
								item.keys.numbers?.[FIELD_OF_VIEW]
									? setNumberKey(id, FIELD_OF_VIEW, tick, next)
									: setHelper(id, "camera", { fieldOfView: next }),
							)
						}
					/>
				</div>
				<KeyDiamond id={id} name={FIELD_OF_VIEW} label="the field of view" value={fieldOfView} />
			</div>
			<NumberField
				label="Near"
				unit="m"
				least={0.001}
				most={source.far * 0.999}
				help="Nearer things are not seen"
				value={source.near}
				onChange={(near) => perform(setHelper(id, "camera", { near }))}
			/>
			<NumberField
				label="Far"
				unit="m"
				least={source.near * 1.001}
				most={100_000}
				help="Farther things are not seen"
				value={source.far}
				onChange={(far) => perform(setHelper(id, "camera", { far }))}
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
				onChange={(aim) => perform(setHelper(id, "camera", { aim: aim === NOTHING ? null : aim }))}
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
					: "A point to aim a camera at or to break around. It can be moved, keyed and grouped."}
			</p>
		</Section>
	);
}
