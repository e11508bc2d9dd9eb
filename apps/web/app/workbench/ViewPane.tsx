import { followsShapeKeys } from "@rubble/core/links";
import { Axis3d, Box, Circle, Maximize, MousePointer2, Move, RectangleVertical, RotateCw, Scaling, Upload, X } from "lucide-react";
import { DropdownMenu, Slider } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import { Hint } from "~/controls/Hint";
import { DrawLayer } from "~/features/break/DrawLayer";
import { chooseMeshFile, importFiles } from "~/features/shape/importFile";
import { addShape } from "~/features/shape/ShapeBench";
import { dropPicture, isPicture } from "~/features/shape/wearPicture";
import { WideLedger } from "./ledger/WideLedger";
import { loadColliderLines, loadTies } from "./store/session";
import { type CameraView, type ColourBy, type GizmoTool, type TieColour, useWorkbench } from "./store/store";
import { makeView, type View, type ViewStats } from "./view/view";

export function ViewPane({ onView }: { onView: (view: View | undefined) => void }) {
	const canvas = useRef<HTMLCanvasElement>(null);
	const pane = useRef<HTMLDivElement>(null);
	const reduced = useWorkbench((state) => Object.values(state.drawings).reduce((most, drawing) => Math.max(most, drawing.reduced), 0));
	const [stats, setStats] = useState<ViewStats>({ draw: 0, apply: 0, bodies: 0 });
	const [failed, setFailed] = useState("");
	const [dropping, setDropping] = useState(false);
	const [view, setView] = useState<View>();
	const empty = useWorkbench((state) => Object.keys(state.shot.objects).length === 0);
	useEffect(() => {
		let view: View;
		try {
			view = makeView(canvas.current!, setStats);
		} catch (error) {
			setFailed(`The view cannot be drawn: this browser has no WebGL 2 (${(error as Error).message}). Everything else works.`);
			return;
		}
		onView(view);
		setView(view);
		const observer = new ResizeObserver(([entry]) => view.resize(entry!.contentRect.width, entry!.contentRect.height));
		observer.observe(pane.current!);
		return () => {
			observer.disconnect();
			onView(undefined);
			setView(undefined);
			view.dispose();
		};
	}, [onView]);
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: files may also be opened by a button
		<div
			ref={pane}
			className="relative min-w-0 flex-1 overflow-hidden bg-[#c9cdcb]"
			onDragOver={(event) => {
				event.preventDefault();
				setDropping(true);
			}}
			onDragLeave={() => setDropping(false)}
			onDrop={(event) => {
				event.preventDefault();
				setDropping(false);
				const files = [...event.dataTransfer.files];
				const picture = files.find(isPicture);
				if (picture) dropPicture(picture, view?.bodyAt(event.clientX, event.clientY));
				importFiles(files.filter((file) => !isPicture(file)));
			}}
		>
			<canvas
				ref={canvas}
				className="absolute inset-0 size-full touch-none outline-none"
				aria-label="View of the shot"
				onContextMenu={(event) => event.preventDefault()}
			/>
			<DrawLayer view={view} />
			{failed && <p className="absolute inset-x-8 top-1/3 rounded-md bg-chalk p-4 text-rust">{failed}</p>}
			<Chips />
			<Tools />
			<BuildNotice />
			<p
				className="number absolute bottom-3 left-3 rounded bg-[#f6f5f1]/80 px-1.5 py-0.5 text-xs text-[#1f2a30]"
				data-apply={stats.apply.toFixed(2)}
			>
				{stats.bodies.toLocaleString("en")} {stats.bodies === 1 ? "body" : "bodies"} · {stats.draw.toFixed(0)} ms
				{reduced > 0 && (
					<span title={`So many copies are drawn with ${reduced} triangles each; what collides and is exported is exact`}> · simpler</span>
				)}
			</p>
			<WideLedger />
			{empty && <Welcome />}
			{dropping && (
				<div className="pointer-events-none absolute inset-3 flex items-center justify-center rounded-md border-2 border-dashed border-kelp bg-chalk/70 text-lg font-semibold">
					Drop a mesh here, or a picture on what shall wear it
				</div>
			)}
		</div>
	);
}

/** An empty shot shows how to begin. */
function Welcome() {
	const starts = [
		{ label: "Box", icon: <Box size={22} />, go: () => addShape("box") },
		{ label: "Panel", icon: <RectangleVertical size={22} />, go: () => addShape("panel") },
		{ label: "Ball", icon: <Circle size={22} />, go: () => addShape("ball") },
		{ label: "Open file", icon: <Upload size={22} />, go: chooseMeshFile },
	];
	return (
		<div className="absolute top-1/2 left-1/2 w-96 -translate-x-1/2 -translate-y-1/2 rounded-md bg-chalk p-5 text-center">
			<h2 className="text-base font-semibold">What should come apart?</h2>
			<p className="mt-1 text-slate">Begin with a shape, or drop an OBJ, STL, PLY or GLB here.</p>
			<div className="mt-4 grid grid-cols-4 gap-2">
				{starts.map(({ label, icon, go }) => (
					<button key={label} type="button" className="button h-16! flex-col gap-1! px-0!" onClick={go}>
						{icon}
						{label}
					</button>
				))}
			</div>
		</div>
	);
}

function BuildNotice() {
	const building = useWorkbench((state) => state.building);
	if (!building) return null;
	return (
		<div className="absolute top-14 left-1/2 w-72 -translate-x-1/2 rounded-md bg-chalk px-3 py-2" role="status">
			<p className="truncate text-xs">{building.what}</p>
			<div className="mt-1 h-1 overflow-hidden rounded-full bg-line">
				<div className="h-full bg-kelp" style={{ width: `${building.fraction * 100}%` }} />
			</div>
		</div>
	);
}

const COLOURS: readonly { id: ColourBy; label: string }[] = [
	{ id: "material", label: "material" },
	{ id: "gradient", label: "gradient" },
	{ id: "piece", label: "piece" },
	{ id: "slab", label: "slab" },
	{ id: "speed", label: "speed" },
	{ id: "volume", label: "volume" },
	{ id: "mass", label: "mass" },
	{ id: "area", label: "area" },
	{ id: "neighbours", label: "neighbours" },
	{ id: "height", label: "height" },
];
const TIE_COLOURS: readonly { id: TieColour; label: string }[] = [
	{ id: "strength", label: "strength" },
	{ id: "load", label: "load" },
	{ id: "state", label: "state" },
];
const DIRECTIONS: readonly { id: CameraView; label: string }[] = [
	{ id: "free", label: "Free" },
	{ id: "front", label: "Front" },
	{ id: "side", label: "Side" },
	{ id: "top", label: "Top" },
];

function Chips() {
	const {
		shot,
		showColliders,
		showCentres,
		showForces,
		showPaths,
		showTies,
		tieColour,
		frames,
		colourBy,
		explode,
		camera,
		pieces,
		alone,
		set,
	} = useWorkbench();
	const cameras = Object.entries(shot.objects).flatMap(([id, { name, source }]) => (source.kind === "camera" ? [{ id, label: name }] : []));
	// Colliders of what changes its shape are other ones at every frame.
	const colliderFrame = useWorkbench((state) => {
		if (!state.showColliders) return undefined;
		return Object.keys(state.shot.objects).some((id) => followsShapeKeys(state.shot, id)) ? state.frame : 0;
	});
	useEffect(() => {
		if (colliderFrame !== undefined) void loadColliderLines();
	}, [colliderFrame]);
	useEffect(() => {
		if (showTies) void loadTies();
	}, [showTies]);
	const tied = Object.keys(shot.bondSets).length + Object.keys(shot.connectors).length > 0;
	const stored = frames.chunks.length > 0;
	const broken = Object.keys(pieces).length > 0;
	return (
		<div className="absolute inset-x-2.5 top-2.5 flex flex-wrap gap-1.5">
			<button type="button" className="chip" aria-pressed={showColliders} onClick={() => set({ showColliders: !showColliders })}>
				Colliders
			</button>
			<button type="button" className="chip" aria-pressed={showCentres} onClick={() => set({ showCentres: !showCentres })}>
				Centres
			</button>
			{Object.values(shot.objects).some(({ source }) => source.kind === "force") && (
				<button type="button" className="chip" aria-pressed={showForces} onClick={() => set({ showForces: !showForces })}>
					Forces
				</button>
			)}
			{tied && (
				<button
					type="button"
					className="chip"
					title="Bonds and connectors in the view"
					aria-pressed={showTies}
					onClick={() => set({ showTies: !showTies })}
				>
					{Object.keys(shot.bondSets).length > 0 ? "Bonds" : "Connectors"}
				</button>
			)}
			{tied && showTies && Object.keys(shot.bondSets).length > 0 && (
				<Menu label="by" name="Bonds by" value={tieColour} options={TIE_COLOURS} onChange={(id) => set({ tieColour: id as TieColour })} />
			)}
			{stored && (
				<button type="button" className="chip" aria-pressed={showPaths} onClick={() => set({ showPaths: !showPaths })}>
					Paths
				</button>
			)}
			<Menu
				label={showTies && tied ? "" : "Colour"}
				name="Colour"
				value={colourBy}
				options={COLOURS}
				onChange={(id) => set({ colourBy: id as ColourBy })}
			/>
			{(broken || showColliders) && (
				<div className="chip">
					<span id="apart">Apart</span>
					<Slider.Root
						className="relative flex h-5 w-16 touch-none items-center"
						min={0}
						max={1.5}
						step={0.01}
						value={[explode]}
						onValueChange={([value]) => set({ explode: value ?? 0 })}
						aria-labelledby="apart"
					>
						<Slider.Track className="h-px flex-1 bg-slate">
							<Slider.Range className="absolute h-0.5 bg-kelp" />
						</Slider.Track>
						<Slider.Thumb aria-labelledby="apart" className="block size-3.5 rounded-full bg-kelp" />
					</Slider.Root>
				</div>
			)}
			{alone && (
				<button
					type="button"
					className="chip border-dusk! text-dusk!"
					aria-pressed={true}
					title="Show all again (I)"
					onClick={() => set({ alone: null })}
				>
					Only {alone.length === 1 ? "the picked one" : `${alone.length} picked`} <X size={13} />
				</button>
			)}
			<span className="flex-1" />
			<Menu
				label=""
				value={camera}
				options={[...DIRECTIONS, ...cameras]}
				onChange={(id) => set({ camera: id as CameraView })}
				name="Camera"
			/>
		</div>
	);
}

function Menu({
	label,
	name = label,
	value,
	options,
	onChange,
}: {
	label: string;
	name?: string;
	value: string;
	options: readonly { id: string; label: string }[];
	onChange: (id: string) => void;
}) {
	const shown = options.find(({ id }) => id === value)?.label ?? "";
	return (
		<DropdownMenu.Root>
			<DropdownMenu.Trigger className="chip" aria-label={label === name ? undefined : `${name}: ${label} ${shown}`}>
				{label} <strong>{shown}</strong> <span aria-hidden>▾</span>
			</DropdownMenu.Trigger>
			<DropdownMenu.Portal>
				<DropdownMenu.Content sideOffset={4} align="start" className="z-50 min-w-28 rounded-md border border-line bg-field p-1">
					<DropdownMenu.RadioGroup value={value} onValueChange={onChange}>
						{options.map((option) => (
							<DropdownMenu.RadioItem
								key={option.id}
								value={option.id}
								className="cursor-default rounded px-2.5 py-1 outline-none data-[highlighted]:bg-kelp-wash data-[state=checked]:font-semibold data-[state=checked]:text-kelp"
							>
								{option.label}
							</DropdownMenu.RadioItem>
						))}
					</DropdownMenu.RadioGroup>
				</DropdownMenu.Content>
			</DropdownMenu.Portal>
		</DropdownMenu.Root>
	);
}

const TOOLS: readonly { id: GizmoTool; label: string; icon: React.ReactNode }[] = [
	{ id: "pick", label: "Pick", icon: <MousePointer2 size={16} /> },
	{ id: "move", label: "Move", icon: <Move size={16} /> },
	{ id: "turn", label: "Turn", icon: <RotateCw size={16} /> },
	{ id: "size", label: "Size", icon: <Scaling size={16} /> },
];

function Tools() {
	const { tool, ownAxes, table, set, lookAt, selection } = useWorkbench();
	// The wide ledger lies over their place.
	if (table) return null;
	return (
		<div className="absolute bottom-2.5 left-1/2 flex -translate-x-1/2 gap-1 rounded-md bg-chalk p-1" role="toolbar" aria-label="Tools">
			{TOOLS.map(({ id, label, icon }) => (
				<Hint
					key={id}
					text={
						id === "pick"
							? "Pick: click an object, click again for a piece, Shift and drag for many"
							: `${label} (T goes on to the next tool). Ctrl snaps`
					}
					side="top"
				>
					<button
						type="button"
						aria-label={label}
						aria-pressed={tool === id}
						className={`flex size-8 items-center justify-center rounded ${tool === id ? "bg-kelp text-on-kelp" : "hover:bg-limestone"}`}
						onClick={() => set({ tool: id })}
					>
						{icon}
					</button>
				</Hint>
			))}
			<span className="mx-1 w-px bg-line" />
			<Hint text="Along the own axes of what was picked last, or the world's (O)" side="top">
				<button
					type="button"
					aria-label="Own axes"
					aria-pressed={ownAxes}
					className={`flex size-8 items-center justify-center rounded ${ownAxes ? "bg-kelp text-on-kelp" : "hover:bg-limestone"}`}
					onClick={() => set({ ownAxes: !ownAxes })}
				>
					<Axis3d size={16} />
				</button>
			</Hint>
			<Hint text={selection.length > 0 ? "Look at the selection (F)" : "Look at everything (F)"} side="top">
				<button
					type="button"
					aria-label="Look at"
					className="flex size-8 items-center justify-center rounded hover:bg-limestone"
					onClick={() => set({ lookAt: lookAt + 1 })}
				>
					<Maximize size={16} />
				</button>
			</Hint>
		</div>
	);
}
