import { layerAt, uncorrectedPose } from "@rubble/core/animation";
import {
	type Easing,
	formatNumber,
	frameOfTick,
	type Key,
	type KeyChannel,
	keyedOf,
	keysIn,
	setKey,
	setKeys,
	setNumberKey,
	TICKS_PER_SECOND,
	tickOfFrame,
	together,
} from "@rubble/core/shot";
import { X } from "lucide-react";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { Segments } from "~/controls/Choice";
import { editedLayer } from "~/workbench/store/correcting";
import { currentKeyed, nameOf } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";
import { type Change, changedKeys, type Line, linesOf, type Picked, roomFor, stopAt } from "./curves";
import { CorrectHere, LayerPick } from "./LayerPick";

const HEIGHT = 236;
/** As wide as the rim of the timeline below: a frame is at the same place in both. */
const PAD = 14;
const RIM = 16;
/** Length of a slope's handle, pixels. */
const HANDLE = 42;
/** Kept by Copy for Paste: keys with ticks from the first one. */
let copied: { readonly channel: KeyChannel; readonly keys: readonly Key<unknown>[] }[] = [];

/** Curves of the picked object's keys, over the timeline: drag points and slopes, box them, give them an easing. */
export function CurvesPanel() {
	const state = useWorkbench();
	const id = currentKeyed(state);
	if (!state.curves) return null;
	return (
		<section aria-label="Curves" className="shrink-0 border-t border-line bg-chalk">
			{id !== undefined && keyedOf(state.shot, id) ? <Editor key={id} id={id} /> : <Nothing />}
		</section>
	);
}

function Nothing() {
	const set = useWorkbench((state) => state.set);
	return (
		<p className="flex items-center justify-between p-3 text-slate">
			Pick something with keys to see their curves.
			<button type="button" className="button button-quiet px-2!" aria-label="Close the curves" onClick={() => set({ curves: false })}>
				<X size={15} />
			</button>
		</p>
	);
}

type Drag =
	| { readonly kind: "points"; readonly x: number; readonly y: number; moved: boolean }
	| { readonly kind: "spread"; readonly x: number; readonly y: number; readonly keys: ReadonlyMap<KeyChannel, readonly Key<unknown>[]> }
	| { readonly kind: "slope"; readonly line: Line; readonly index: number }
	| { readonly kind: "box"; readonly x: number; readonly y: number; readonly toX: number; readonly toY: number };

function Editor({ id }: { id: string }) {
	const state = useWorkbench();
	const { shot, frame, perform, set } = state;
	const layer = editedLayer(state, id);
	const [channelShown, setChannelShown] = useState<KeyChannel | null>(null);
	const [hidden, setHidden] = useState<readonly string[]>([]);
	const [picked, setPicked] = useState<readonly Picked[]>([]);
	const [drag, setDrag] = useState<Drag | null>(null);
	const [width, setWidth] = useState(800);
	const box = useRef<SVGSVGElement>(null);
	// Before it is painted: curves must not be seen, or pressed, where they are not.
	useLayoutEffect(() => {
		setWidth(box.current!.clientWidth);
		const observer = new ResizeObserver(([entry]) => setWidth(entry!.contentRect.width));
		observer.observe(box.current!);
		return () => observer.disconnect();
	}, []);
	// Another object begins with its own keys.
	useEffect(() => set({ layer: null }), [set]);
	const everything = linesOf(shot, id, layer);
	// Metres and degrees do not share an axis.
	const kinds = [...new Set(everything.map(({ channel }) => channel))];
	const shown = channelShown !== null && kinds.includes(channelShown) ? channelShown : kinds[0];
	const all = everything.filter(({ channel }) => channel === shown);
	const lines = all.filter((line) => !hidden.includes(line.id));
	const now = tickOfFrame(shot.settings, frame);
	const goesOn = everything.some(({ points }) => points.some(({ tick }) => tick > now));
	const { firstFrame, lastFrame } = shot.settings;
	const span = Math.max(1, lastFrame - firstFrame);
	const values = lines.flatMap((line) => line.points.map(({ value }) => value));
	const [low, high] = rangeOf(values);
	const x = (at: number) => PAD + ((at - firstFrame) / span) * (width - 2 * PAD);
	const y = (value: number) => HEIGHT - RIM - ((value - low) / (high - low)) * (HEIGHT - 2 * RIM);
	const frameAt = (px: number) => firstFrame + ((px - PAD) / (width - 2 * PAD)) * span;
	const perPixel = (high - low) / (HEIGHT - 2 * RIM);
	const local = (event: React.PointerEvent | React.MouseEvent): readonly [number, number] => {
		const rect = box.current!.getBoundingClientRect();
		return [event.clientX - rect.left, event.clientY - rect.top];
	};
	const isPicked = (line: string, index: number) => picked.some((one) => one.line === line && one.index === index);
	const change = (what: Change, of: readonly Picked[] = picked) => {
		const channels = new Map<KeyChannel, { part: number; index: number }[]>();
		for (const { line, index } of of) {
			const found = all.find((one) => one.id === line);
			if (!found) continue;
			const list = channels.get(found.channel) ?? [];
			channels.set(found.channel, [...list, { part: found.part, index }]);
		}
		perform(
			together(
				"Edit keys",
				[...channels].map(([channel, own]) => setKeys(id, channel, changedKeys(keysIn(keyedOf(shot, id)!.keys, channel), own, what))),
			),
		);
	};
	const remove = () => {
		perform(
			together(
				"Delete keys",
				[...pickedByChannel(all, picked)].map(([channel, gone]) =>
					setKeys(
						id,
						channel,
						keysIn(keyedOf(shot, id)!.keys, channel).filter((_, i) => !gone.has(i)),
					),
				),
			),
		);
		setPicked([]);
	};
	const copy = () => {
		const taken = [...pickedByChannel(all, picked)].map(([channel, wanted]) => ({
			channel,
			keys: keysIn(keyedOf(shot, id)!.keys, channel).filter((_, i) => wanted.has(i)),
		}));
		const begin = Math.min(...taken.flatMap(({ keys }) => keys.map(({ tick }) => tick)));
		copied = taken.map(({ channel, keys }) => ({ channel, keys: keys.map((key) => ({ ...key, tick: key.tick - begin })) }));
	};
	const paste = () => {
		perform(
			together(
				"Paste keys",
				copied.map(({ channel, keys }) =>
					setKeys(id, channel, [...keysIn(keyedOf(shot, id)!.keys, channel), ...keys.map((key) => ({ ...key, tick: key.tick + now }))]),
				),
			),
		);
	};
	const addAt = (line: Line, px: number) => {
		const tick = tickOfFrame(shot.settings, Math.round(frameAt(px)));
		const item = keyedOf(shot, id)!;
		const pose = layer === undefined ? uncorrectedPose(item, tick) : layerAt(item.keys.layers![layer]!, tick);
		if (line.channel.endsWith("translation")) perform(setKey(id, tick, { translation: pose.translation }, undefined, layer));
		else if (line.channel.endsWith("rotation")) perform(setKey(id, tick, { rotation: pose.rotation }, undefined, layer));
		else perform(setNumberKey(id, line.label, tick, line.at(tick)));
	};
	/** Picked keys farther apart or closer: in time to the right and left, in value up and down. Always from where they were. */
	const spread = (from: Drag & { kind: "spread" }, px: number, py: number) => {
		const time = Math.max(0.05, 1 + (px - from.x) / 150);
		const value = Math.max(0, 1 + (from.y - py) / 75);
		perform(
			together(
				"Spread keys",
				[...from.keys].map(([channel, keys]) => {
					const own = [...(pickedByChannel(all, picked).get(channel) ?? [])];
					const begin = Math.min(...own.map((index) => keys[index]!.tick));
					const parts = picked.flatMap(({ line, index }) => {
						const found = all.find((one) => one.id === line);
						return found?.channel === channel ? [{ part: found.part, index }] : [];
					});
					return setKeys(id, channel, changedKeys(keys, parts, { spread: { time, from: begin, value } }));
				}),
			),
		);
	};
	const onMove = (event: React.PointerEvent) => {
		if (!drag) return;
		const [px, py] = local(event);
		if (drag.kind === "box") return setDrag({ ...drag, toX: px, toY: py });
		if (drag.kind === "slope") {
			const point = drag.line.points[drag.index]!;
			const seconds = (px - x(frameOfTick(shot.settings, point.tick))) / ((width - 2 * PAD) / (span / shot.settings.fps));
			if (Math.abs(seconds) < 1e-3) return;
			return change({ slope: ((y(point.value) - py) * perPixel) / seconds, easing: "curved" }, [{ line: drag.line.id, index: drag.index }]);
		}
		if (drag.kind === "spread") return spread(drag, px, py);
		const frames = Math.round(((px - drag.x) / (width - 2 * PAD)) * span);
		const by = event.shiftKey ? 0 : (drag.y - py) * perPixel;
		const oneFrame = TICKS_PER_SECOND / shot.settings.fps;
		const ticks = [...pickedByChannel(all, picked)].reduce(
			(left, [channel, own]) => roomFor(keysIn(keyedOf(shot, id)!.keys, channel), own, left, oneFrame),
			Math.round(frames * oneFrame),
		);
		if (ticks === 0 && Math.abs(by) < 2 * perPixel && !drag.moved) return;
		// Frames are taken over in whole steps, values at once.
		change({ ticks, by: Number(by.toPrecision(6)) });
		setDrag({ kind: "points", x: frames === 0 ? drag.x : px, y: py, moved: true });
	};
	const onUp = (event: React.PointerEvent) => {
		if (drag?.kind === "box") {
			const [toX, toY] = local(event);
			const [l, r] = [Math.min(drag.x, toX), Math.max(drag.x, toX)];
			const [t, b] = [Math.min(drag.y, toY), Math.max(drag.y, toY)];
			setPicked(
				lines.flatMap((line) =>
					line.points.flatMap(({ tick, value }, index) => {
						const [px, py] = [x(frameOfTick(shot.settings, tick)), y(value)];
						return px >= l && px <= r && py >= t && py <= b ? [{ line: line.id, index }] : [];
					}),
				),
			);
		}
		setDrag(null);
	};
	const easings = new Set(picked.map(({ line, index }) => all.find((one) => one.id === line)?.points[index]?.easing));
	const one = picked.length === 1 ? all.find((line) => line.id === picked[0]!.line) : undefined;
	const point = one?.points[picked[0]!.index];
	return (
		<div
			role="group"
			aria-label="Keys as curves"
			className="flex"
			onKeyDown={(event) => {
				const control = event.ctrlKey || event.metaKey;
				if (event.key === "Delete" && picked.length > 0) remove();
				else if (control && event.key === "c" && picked.length > 0) copy();
				else if (control && event.key === "v" && copied.length > 0) paste();
				else return;
				event.preventDefault();
				event.stopPropagation();
			}}
		>
			<div className="flex w-66 shrink-0 flex-col gap-1 overflow-y-auto border-r border-line px-3 py-1.5" style={{ height: HEIGHT }}>
				<header className="flex shrink-0 items-center gap-1">
					<h2 className="min-w-0 flex-1 truncate font-semibold">{nameOf(state, id)}</h2>
					<CorrectHere id={id} />
					<button type="button" className="button button-quiet px-2!" aria-label="Close the curves" onClick={() => set({ curves: false })}>
						<X size={15} />
					</button>
				</header>
				{kinds.length > 1 && (
					<div className="shrink-0">
						<Segments
							compact
							label="Curves of"
							value={shown ?? ""}
							options={kinds.map((channel) => ({
								id: channel,
								label: channel.endsWith("translation") ? "Place" : channel.endsWith("rotation") ? "Turn" : channel.slice("numbers.".length),
							}))}
							onChange={(channel) => {
								setPicked([]);
								setChannelShown(channel as KeyChannel);
							}}
						/>
					</div>
				)}
				<LayerPick id={id} layer={layer} />
				<div className="flex shrink-0 flex-wrap gap-x-3">
					{all.map((line) => (
						<label key={line.id} className="flex items-center gap-1 text-xs whitespace-nowrap">
							<input
								type="checkbox"
								className="size-3.5"
								style={{ accentColor: line.colour }}
								checked={!hidden.includes(line.id)}
								onChange={() => setHidden(hidden.includes(line.id) ? hidden.filter((other) => other !== line.id) : [...hidden, line.id])}
							/>
							{line.label}
						</label>
					))}
				</div>
				<div className="flex shrink-0 flex-col gap-1" role="toolbar" aria-label="What is done with picked keys">
					<Segments
						compact
						label="Easing of the picked keys"
						value={easings.size === 1 ? String([...easings][0]) : ""}
						options={[
							{ id: "linear", label: "Linear", help: "Even speed to the next key" },
							{ id: "eased", label: "Eased", help: "Slow out of a key and into the next" },
							{ id: "stepped", label: "Stepped", help: "Stays, then jumps" },
							{ id: "curved", label: "Curved", help: "A smooth curve; drag the handles for its slope" },
						]}
						onChange={(easing) => picked.length > 0 && change({ easing: easing as Easing })}
					/>
					<div className="grid grid-cols-4 gap-1">
						<button
							type="button"
							className="button px-1!"
							disabled={picked.length === 0}
							title="No slope at the picked keys"
							onClick={() => change({ slope: 0, easing: "curved" })}
						>
							Flat
						</button>
						<button
							type="button"
							className="button px-1!"
							disabled={picked.length === 0}
							title="The slope that its neighbours give"
							onClick={() => change({ slope: null })}
						>
							Auto
						</button>
						<button
							type="button"
							className="button px-1!"
							disabled={picked.length < 3}
							title="Picked values go half way to the middle of their neighbours"
							onClick={() => change({ smooth: true })}
						>
							Smooth
						</button>
						<button type="button" className="button px-1!" disabled={picked.length === 0} title="Ctrl C" onClick={copy}>
							Copy
						</button>
						<button type="button" className="button px-1!" title="At the frame on show (Ctrl V)" onClick={paste}>
							Paste
						</button>
						<button type="button" className="button px-1!" disabled={picked.length === 0} title="Delete" onClick={remove}>
							Delete
						</button>
						<button
							type="button"
							className="button col-span-2 px-1!"
							disabled={!goesOn}
							title="From the frame on show it stays as it is then, in place, turns and numbers: later keys go"
							onClick={() => {
								perform(stopAt(shot, id, now, layer));
								setPicked([]);
							}}
						>
							Stop here
						</button>
					</div>
				</div>
			</div>
			<div className="relative min-w-0 flex-1">
				<span className="number pointer-events-none absolute top-1 right-4 text-xs text-slate">
					{point && one
						? `frame ${formatNumber(frameOfTick(shot.settings, point.tick), 4)} · ${formatNumber(point.value, 4)} ${one.unit}`
						: picked.length > 0
							? `${picked.length} points · Alt and drag spreads them`
							: ""}
				</span>
				{all.length === 0 && (
					<p className="absolute inset-x-3 top-2 text-slate">
						It has no keys yet. Place it, press K, go on to another frame, place it again, K.
					</p>
				)}
				<svg
					ref={box}
					height={HEIGHT}
					className="block w-full touch-none outline-none select-none"
					role="application"
					aria-label="Curves of the keys"
					// biome-ignore lint/a11y/noNoninteractiveTabindex: it takes the keyboard, as its role says
					tabIndex={0}
					onPointerDown={(event) => {
						if (event.button !== 0) return;
						const [px, py] = local(event);
						event.currentTarget.setPointerCapture(event.pointerId);
						setPicked([]);
						setDrag({ kind: "box", x: px, y: py, toX: px, toY: py });
					}}
					onPointerMove={onMove}
					onPointerUp={onUp}
					onPointerCancel={() => setDrag(null)}
					onDoubleClick={(event) => {
						const [px, py] = local(event);
						const tick = tickOfFrame(shot.settings, Math.round(frameAt(px)));
						const near = [...lines].sort((a, b) => Math.abs(y(a.at(tick)) - py) - Math.abs(y(b.at(tick)) - py))[0];
						if (near && Math.abs(y(near.at(tick)) - py) < 14) addAt(near, px);
					}}
				>
					<title>Drag a box around keys; Alt and drag spreads them; double-click a curve for a new one</title>
					{[low, (low + high) / 2, high].map((value) => (
						<g key={value}>
							<line x1={PAD} x2={width - PAD} y1={y(value)} y2={y(value)} stroke="var(--line)" />
							<text x={PAD} y={y(value) - 3} fontSize={10} fill="var(--slate)" className="number">
								{formatNumber(value, 3)}
							</text>
						</g>
					))}
					<line x1={x(frame)} x2={x(frame)} y1={0} y2={HEIGHT} stroke="var(--ink)" />
					{lines.map((line) => (
						<polyline key={line.id} points={pathOf(line, shot, width, x, y)} fill="none" stroke={line.colour} strokeWidth={1.5} />
					))}
					{lines.map((line) =>
						line.points.map(({ tick, value, easing, slope }, index) => {
							const [px, py] = [x(frameOfTick(shot.settings, tick)), y(value)];
							const chosen = isPicked(line.id, index);
							const perSecond = (width - 2 * PAD) / (span / shot.settings.fps);
							const [dx, dy] = handleOf(slope ?? slopeAt(line, tick), perSecond, perPixel);
							return (
								<g key={`${line.id} ${tick}`}>
									{chosen && !line.channel.endsWith("rotation") && (easing === "curved" || slope !== undefined) && (
										<>
											<line x1={px - dx} y1={py - dy} x2={px + dx} y2={py + dy} stroke={line.colour} strokeDasharray="2 2" />
											{[-1, 1].map((side) => (
												<circle
													key={side}
													cx={px + side * dx}
													cy={py + side * dy}
													r={4}
													fill="var(--chalk)"
													stroke={line.colour}
													onPointerDown={(event) => {
														event.stopPropagation();
														box.current!.setPointerCapture(event.pointerId);
														setDrag({ kind: "slope", line, index });
													}}
												/>
											))}
										</>
									)}
									<rect
										x={px - 4}
										y={py - 4}
										width={8}
										height={8}
										transform={`rotate(45 ${px} ${py})`}
										fill={chosen ? line.colour : "var(--chalk)"}
										stroke={line.colour}
										strokeWidth={1.5}
										data-key={`${line.id} ${Number(frameOfTick(shot.settings, tick).toFixed(2))}`}
										onPointerDown={(event) => {
											event.stopPropagation();
											const [lx, ly] = local(event);
											box.current!.setPointerCapture(event.pointerId);
											box.current!.focus();
											const me = { line: line.id, index };
											if (event.shiftKey)
												setPicked(chosen ? picked.filter((other) => other.line !== me.line || other.index !== index) : [...picked, me]);
											else if (!chosen) setPicked([me]);
											if (event.altKey && chosen)
												setDrag({
													kind: "spread",
													x: lx,
													y: ly,
													keys: new Map(
														[...pickedByChannel(all, picked).keys()].map((channel) => [channel, keysIn(keyedOf(shot, id)!.keys, channel)]),
													),
												});
											else setDrag({ kind: "points", x: lx, y: ly, moved: false });
										}}
									/>
								</g>
							);
						}),
					)}
					{drag?.kind === "box" && (
						<rect
							x={Math.min(drag.x, drag.toX)}
							y={Math.min(drag.y, drag.toY)}
							width={Math.abs(drag.toX - drag.x)}
							height={Math.abs(drag.toY - drag.y)}
							fill="var(--kelp)"
							fillOpacity={0.12}
							stroke="var(--kelp)"
						/>
					)}
				</svg>
			</div>
		</div>
	);
}

/** Which keys of which channel the picked points are of. */
function pickedByChannel(lines: readonly Line[], picked: readonly Picked[]): Map<KeyChannel, Set<number>> {
	const channels = new Map<KeyChannel, Set<number>>();
	for (const { line, index } of picked) {
		const channel = lines.find((one) => one.id === line)?.channel;
		if (channel) channels.set(channel, (channels.get(channel) ?? new Set()).add(index));
	}
	return channels;
}

/** Values that differ by less are alike: a micrometre. */
const LEAST_RANGE = 1e-6;

/** From the least to the most, with some room where all are alike. */
function rangeOf(values: readonly number[]): readonly [number, number] {
	const low = Math.min(...values);
	const high = Math.max(...values);
	if (values.length === 0) return [0, 1];
	const room = high - low > LEAST_RANGE ? 0.08 * (high - low) : 0.5;
	return [low - room, high + room];
}

function pathOf(
	line: Line,
	{ settings }: { readonly settings: { readonly fps: number; readonly firstFrame: number; readonly lastFrame: number } },
	width: number,
	x: (frame: number) => number,
	y: (value: number) => number,
): string {
	const steps = Math.min(600, Math.max(60, Math.round(width / 2)));
	return Array.from({ length: steps + 1 }, (_, i) => {
		const frame = settings.firstFrame + ((settings.lastFrame - settings.firstFrame) * i) / steps;
		return `${x(frame).toFixed(1)},${y(line.at(((frame - settings.firstFrame) * TICKS_PER_SECOND) / settings.fps)).toFixed(1)}`;
	}).join(" ");
}

/** How steep a line is at a tick, per second. */
const slopeAt = (line: Line, tick: number): number =>
	((line.at(tick + 1) - line.at(Math.max(0, tick - 1))) / (tick < 1 ? 1 : 2)) * TICKS_PER_SECOND;

/** Where a handle of the usual length ends, in pixels from its point. */
function handleOf(slope: number, perSecond: number, perPixel: number): readonly [number, number] {
	const dy = -slope / perPixel / perSecond;
	const length = Math.hypot(1, dy);
	return [HANDLE / length, (HANDLE * dy) / length];
}
