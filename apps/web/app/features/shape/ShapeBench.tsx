import { bounds } from "@rubble/core/mesh";
import { buildShape, isEndless, SHAPES, type Shape, shapeById, shapeDefaults } from "@rubble/core/shapes";
import { keepStanding, keyedNumbers, shapedAt } from "@rubble/core/shaping";
import {
	addObject,
	type Command,
	formatNumber,
	formatQuantity,
	fractureOf,
	type Id,
	type SceneObject,
	type ShapeSource,
	setBody,
	setNumberKey,
	setRepairs,
	setShapeParameter,
	setShapeText,
	type Ticks,
	tickOfFrame,
	together,
} from "@rubble/core/shot";
import {
	Box,
	Circle,
	CircleDot,
	Cone,
	CupSoda,
	Cylinder,
	LifeBuoy,
	Minus,
	Mountain,
	Rainbow,
	RectangleVertical,
	Soup,
	Tornado,
	TriangleRight,
	Type,
	Upload,
} from "lucide-react";
import { NumberField } from "~/controls/NumberField";
import { Fact, Section } from "~/controls/Section";
import { shownAs, spread } from "~/controls/spread";
import { TextField } from "~/controls/TextField";
import { TileButton } from "~/controls/TileButton";
import { newId } from "~/workbench/ids";
import { currentObject } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";
import { KeyDiamond } from "../keys/KeyDiamond";
import { KeysSection } from "../keys/KeysSection";
import { BendSection } from "./BendSection";
import { ArraySection, CopySection } from "./CopiesSection";
import { BeaconSection, CameraSection, HelperButtons, LightSection, RegionSection, ScenerySection } from "./HelperSections";
import { chooseMeshFile } from "./importFile";
import { MaterialSection } from "./MaterialSection";
import { PlaceSection } from "./PlaceSection";

const ICONS: Record<string, React.ReactNode> = {
	box: <Box size={18} />,
	ball: <Circle size={18} />,
	cylinder: <Cylinder size={18} />,
	panel: <RectangleVertical size={18} />,
	cone: <Cone size={18} />,
	tube: <CircleDot size={18} />,
	torus: <LifeBuoy size={18} />,
	bowl: <Soup size={18} />,
	cup: <CupSoda size={18} />,
	wedge: <TriangleRight size={18} />,
	arch: <Rainbow size={18} />,
	terrain: <Mountain size={18} />,
	coil: <Tornado size={18} />,
	letters: <Type size={18} />,
	ground: <Minus size={18} />,
};

export function ShapeBench() {
	const { shot, selection } = useWorkbench();
	const id = currentObject({ shot, selection });
	return (
		<>
			<AddSection />
			{id !== undefined && shot.objects[id] ? <ObjectSections id={id} /> : <ScenerySection />}
		</>
	);
}

/** New things stand on the ground beside what is there. */
export function addShape(shapeId: string): Id {
	const { perform, select, shot } = useWorkbench.getState();
	const shape = shapeById(shapeId)!;
	const parameters = shapeDefaults(shape);
	const id = newId();
	const { min, max } = bounds(buildShape(shape, parameters));
	perform(
		addObject({
			id,
			name: shape.label,
			source: { kind: "shape", shape: shapeId, parameters },
			translation: shape.endless ? [0, 0, 0] : [besideAll(max[0] - min[0]), -min[1], 0],
			material: shapeId === "panel" ? "glass" : shape.ground ? "sand" : "concrete",
		}),
	);
	if (shape.ground && !shot.bodies[id]) perform(setBody([id], { kind: "passive" }));
	select([id]);
	return id;
}

const ROOM = 0.15; // metres between a new thing and its neighbour

/** Where along x a new thing of this width stands clear of all others; in the middle where it is the first. */
function besideAll(width: number): number {
	const { shot, reports } = useWorkbench.getState();
	let right = -Infinity;
	for (const [id, item] of Object.entries(shot.objects)) {
		const { source } = item;
		const shape = source.kind === "shape" ? shapeById(source.shape) : undefined;
		if (shape?.endless) continue;
		const half =
			shape && source.kind === "shape"
				? bounds(buildShape(shape, source.parameters, source.texts)).max[0] * item.scale[0]
				: (reports[id]?.size[0] ?? 1) / 2;
		right = Math.max(right, item.translation[0] + half);
	}
	return right === -Infinity ? 0 : right + ROOM + width / 2;
}

function AddSection() {
	return (
		<Section title="Add">
			<div className="grid grid-cols-4 gap-1.5">
				{SHAPES.map((shape) => (
					<TileButton key={shape.id} label={shape.label} title={shape.help} icon={ICONS[shape.id]} onClick={() => addShape(shape.id)} />
				))}
				<TileButton label="Open file" title="OBJ, STL, PLY, GLB or glTF" icon={<Upload size={18} />} onClick={chooseMeshFile} />
			</div>
			<HelperButtons />
		</Section>
	);
}

function ObjectSections({ id }: { id: Id }) {
	const { shot, frame, perform, reports, problems } = useWorkbench();
	const tick = tickOfFrame(shot.settings, frame);
	const problem = problems.find((other) => other.object === id && !shot.fractures[fractureOf(shot, id) ?? ""]);
	const item = shot.objects[id]!;
	const { kind } = item.source;
	const solid = kind === "mesh" || (kind === "shape" && !isEndless(item.source));
	const shape = item.source.kind === "shape" ? shapeById(item.source.shape) : undefined;
	const report = reports[id];
	const resize = (change: Command) => perform(keepStanding(id, change));
	const former = item.source.kind === "mesh" ? item.source.repairs : undefined;
	return (
		<>
			{kind === "array" && <ArraySection id={id} />}
			{kind === "camera" && <CameraSection id={id} />}
			{kind === "beacon" && <BeaconSection id={id} />}
			{kind === "light" && <LightSection id={id} />}
			{kind === "region" && <RegionSection id={id} />}
			{kind === "group" && (
				<Section title={item.name} aside="Group">
					<p className="text-slate">Holds others together: they move, turn and size with it.</p>
				</Section>
			)}
			{problem && kind === "array" && <Problem message={problem.message} />}
			{(kind === "shape" || kind === "mesh") && (
				<Section title={item.name} aside={shape?.label ?? (item.source.kind === "mesh" ? item.source.file : "")}>
					{Object.entries(shape?.texts ?? {}).map(([name, text]) => (
						<TextField
							key={name}
							label={text.label}
							help={text.help}
							value={(item.source as ShapeSource).texts?.[name] ?? text.default}
							onChange={(value) => resize(setShapeText(id, name, value))}
						/>
					))}
					{shape &&
						item.source.kind === "shape" &&
						Object.entries(shape.parameters).map(([name, parameter]) => {
							const value = (shapedAt(item, tick).source as ShapeSource).parameters[name] ?? parameter.default;
							const setTo = (one: string, next: number) =>
								keyedNumbers(item).includes(one) ? setNumberKey(id, one, tick, next) : setShapeParameter(id, one, next);
							return (
								<div key={name} className="flex items-center gap-1.5">
									<div className="min-w-0 flex-1">
										<NumberField
											{...parameter}
											whole={parameter.whole ?? false}
											{...shownAs(parameter, value, SMALL_SIZE)}
											value={value}
											onChange={(next) => resize(setTo(name, next))}
											onSeveral={(texts) =>
												resize(
													together(
														"Set sizes",
														spread(shownParameters(shape, item, tick), name, texts, shot.settings.fps).map((one) => setTo(...one)),
													),
												)
											}
										/>
									</div>
									{!shape.endless && !parameter.whole && !parameter.addsFaces && (
										<KeyDiamond id={id} name={name} label={parameter.label.toLowerCase()} value={value} />
									)}
								</div>
							);
						})}
					{problem && <Problem message={problem.message} />}
				</Section>
			)}
			{(kind === "shape" || kind === "mesh") && <MaterialSection id={id} />}
			{!shape?.endless && <PlaceSection id={id} />}
			{solid && <BendSection id={id} />}
			{solid && <CopySection />}
			{!shape?.endless && <KeysSection id={id} />}
			{report && solid && (
				<Section title="Mesh">
					<Fact label="Size" value={`${report.size.map((s) => formatNumber(s, 3)).join(" × ")} m`} />
					<Fact
						label="Volume"
						value={report.closed ? formatQuantity(report.volume, "volume", 4) : "none: not closed"}
						{...(!report.closed && { tone: "error" as const })}
					/>
					<Fact label="Surface" value={formatQuantity(report.area, "area", 4)} />
					<Fact label="Triangles" value={report.triangles.toLocaleString("en")} />
					<Fact label="Shells" value={report.shells} />
					{report.faults.map((fault) => (
						<div key={fault.message} className="mt-1.5 rounded-md border border-rust/40 p-2">
							<p className="text-rust">{fault.message}</p>
							<div className="mt-1.5 flex flex-wrap gap-1.5">
								{former &&
									fault.repairs.map(({ label, repairs }) => (
										<button key={label} type="button" className="button" onClick={() => perform(setRepairs(id, [...former, ...repairs]))}>
											{label}
										</button>
									))}
							</div>
						</div>
					))}
					{former?.map(
						(repair, i) =>
							repair.kind === "thicken" && (
								<NumberField
									key={i}
									label="Thickness"
									unit="mm"
									factor={1000}
									help="Of the open surface, half to each side"
									least={1e-5}
									most={100}
									value={repair.thickness}
									onChange={(thickness) => perform(setRepairs(id, former.with(i, { kind: "thicken", thickness })))}
								/>
							),
					)}
					{former && former.length > 0 && (
						<p className="mt-1 flex justify-between text-slate">
							<span>Repaired: {former.map((repair) => repair.kind).join(", ")}</span>
							<button type="button" className="link-action" onClick={() => perform(setRepairs(id, []))}>
								As it came
							</button>
						</p>
					)}
				</Section>
			)}
		</>
	);
}

/** Lengths under 5 cm read better in millimetres. */
/** Sizes below this are shown in millimetres. */
const SMALL_SIZE = 0.05; // metres

/** The sizes of a shape at a tick with what their fields show. */
function shownParameters(shape: Shape, item: SceneObject, tick: Ticks) {
	const { parameters } = shapedAt(item, tick).source as ShapeSource;
	return Object.entries(shape.parameters).map(
		([name, parameter]) => [name, parameter, shownAs(parameter, parameters[name] ?? parameter.default, SMALL_SIZE)] as const,
	);
}

function Problem({ message }: { message: string }) {
	return (
		<p className="px-3.5 py-1 text-rust" role="alert">
			{message}
		</p>
	);
}
