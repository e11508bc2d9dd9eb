import { EventKind, isBreak } from "@rubble/core/cache";
import { ChevronFirst, ChevronLast, ChevronLeft, ChevronRight, Pause, Play, Repeat } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { Hint } from "~/controls/Hint";
import { useDraft } from "~/controls/useDraft";
import { frameFacts } from "../store/selectors";
import { useWorkbench } from "../store/store";
import { Keys, SimulationStart, Wakes } from "./Marks";
import { usePlayback } from "./playback";

/** Play, scrub to any frame at once, and see what is stored, what is stale, and what happened when. */
export function Timeline() {
	usePlayback();
	return (
		<section className="flex h-32 shrink-0 border-t border-line bg-chalk" aria-label="Timeline">
			<Transport />
			<Lanes />
		</section>
	);
}

function Transport() {
	const { frame, playing, loop, everyFrame, set, shot } = useWorkbench();
	const { firstFrame, lastFrame, fps } = shot.settings;
	const go = (to: number) => set({ frame: Math.min(lastFrame, Math.max(firstFrame, to)), playing: false });
	return (
		<div className="w-66 shrink-0 border-r border-line px-3 py-2.5">
			<p className="flex items-baseline gap-1.5">
				<FrameField frame={frame} onChange={go} />
				<span className="number text-slate">
					/ {lastFrame} · {((frame - firstFrame) / fps).toFixed(2)} s
				</span>
			</p>
			<div className="mt-2 flex gap-1">
				<TransportButton label="First frame (Home)" onClick={() => go(firstFrame)} icon={<ChevronFirst size={15} />} />
				<TransportButton label="Frame back (←)" onClick={() => go(frame - 1)} icon={<ChevronLeft size={15} />} />
				<Hint text={playing ? "Pause (Space)" : "Play (Space)"} side="top">
					<button
						type="button"
						aria-label={playing ? "Pause" : "Play"}
						className="button bg-ink! px-2.5! text-chalk!"
						onClick={() => set({ playing: !playing })}
					>
						{playing ? <Pause size={15} fill="currentColor" /> : <Play size={15} fill="currentColor" />}
					</button>
				</Hint>
				<TransportButton label="Frame on (→)" onClick={() => go(frame + 1)} icon={<ChevronRight size={15} />} />
				<TransportButton label="Last frame (End)" onClick={() => go(lastFrame)} icon={<ChevronLast size={15} />} />
				<TransportButton label="Loop" pressed={loop} onClick={() => set({ loop: !loop })} icon={<Repeat size={14} />} />
			</div>
			<button
				type="button"
				aria-pressed={everyFrame}
				className="mt-1.5 text-xs text-slate hover:text-ink"
				onClick={() => set({ everyFrame: !everyFrame })}
			>
				Plays {everyFrame ? "every frame" : "true to time"} ·{" "}
				<span className="link-action">{everyFrame ? "true to time" : "every frame"}</span>
			</button>
		</div>
	);
}

/** The frame on show; click it and type another. */
function FrameField({ frame, onChange }: { frame: number; onChange: (frame: number) => void }) {
	const draft = useDraft(String(frame), (text) => {
		if (text.trim() !== "" && Number.isFinite(Number(text))) onChange(Math.round(Number(text)));
	});
	return (
		<input
			className="number -ml-1 rounded border border-transparent bg-transparent px-1 text-2xl font-bold hover:border-line"
			style={{ width: `${Math.max(2, draft.value.length) + 0.8}ch` }}
			inputMode="numeric"
			aria-label="Go to frame"
			data-frame={frame}
			{...draft}
			onFocus={(event) => event.target.select()}
		/>
	);
}

function TransportButton({
	label,
	icon,
	onClick,
	pressed,
}: {
	label: string;
	icon: React.ReactNode;
	onClick: () => void;
	pressed?: boolean;
}) {
	return (
		<Hint text={label} side="top">
			<button
				type="button"
				aria-label={label}
				aria-pressed={pressed}
				className={`button px-2! ${pressed ? "border-kelp! text-kelp!" : ""}`}
				onClick={onClick}
			>
				{icon}
			</button>
		</Hint>
	);
}

const PAD = 14;

function Lanes() {
	const state = useWorkbench();
	const { shot, frame, frames, run } = state;
	const box = useRef<HTMLDivElement>(null);
	const [width, setWidth] = useState(800);
	useEffect(() => {
		const observer = new ResizeObserver(([entry]) => setWidth(Math.max(2 * PAD + 1, entry!.contentRect.width)));
		observer.observe(box.current!);
		return () => observer.disconnect();
	}, []);
	const { firstFrame, lastFrame } = shot.settings;
	const span = Math.max(1, lastFrame - firstFrame);
	const toFrame = (clientX: number) =>
		Math.round(firstFrame + ((clientX - box.current!.getBoundingClientRect().left - PAD) / (width - 2 * PAD)) * span);
	const x = (at: number) => PAD + ((at - firstFrame) / span) * (width - 2 * PAD);
	const scrub = (event: React.PointerEvent) => {
		if (event.buttons !== 1) return;
		const left = box.current!.getBoundingClientRect().left;
		const at = firstFrame + ((event.clientX - left - PAD) / (width - 2 * PAD)) * span;
		state.set({ frame: Math.min(lastFrame, Math.max(firstFrame, Math.round(at))), playing: false });
	};
	const facts = frameFacts(state);
	const events = useMemo(() => countEvents(frames), [frames]);
	return (
		<div
			ref={box}
			className="relative min-w-0 flex-1 touch-none overflow-hidden select-none"
			onPointerDown={(event) => {
				event.currentTarget.setPointerCapture(event.pointerId);
				scrub(event);
			}}
			onPointerMove={scrub}
		>
			{/* The lanes as one slider for the keyboard and for screen readers; the keys of the workbench move it. */}
			<div
				role="slider"
				tabIndex={0}
				aria-label="Frame"
				aria-valuemin={firstFrame}
				aria-valuemax={lastFrame}
				aria-valuenow={frame}
				className="absolute inset-0 focus-visible:outline-offset-[-2px]"
			/>
			<svg width={width} height={128} aria-hidden className="pointer-events-none block">
				<Ruler first={firstFrame} last={lastFrame} x={x} width={width} />
				<Band x={x} {...facts} running={run ? Math.max(run.at, run.from - 1) : undefined} />
				<Events events={events} x={x} slot={(width - 2 * PAD) / span} />
				<line x1={x(frame)} x2={x(frame)} y1={6} y2={128} stroke="var(--ink)" strokeWidth={1.5} />
				<path d={`M${x(frame) - 6} 2h12v8l-6 6-6-6z`} fill="var(--ink)" />
			</svg>
			<SimulationStart x={x} toFrame={toFrame} />
			<Wakes x={x} toFrame={toFrame} />
			<Keys x={x} toFrame={toFrame} />
			<Legend events={events} />
		</div>
	);
}

function Ruler({ first, last, x, width }: { first: number; last: number; x: (frame: number) => number; width: number }) {
	const perFrame = (width - 2 * PAD) / Math.max(1, last - first);
	const step = [1, 2, 5, 10, 12, 24, 48, 120, 240, 480, 1200, 2400, 12_000].find((s) => s * perFrame >= 64) ?? 24_000;
	const minor = Math.max(1, Math.round(step / (step % 12 === 0 ? 12 : step % 5 === 0 ? 5 : 2)));
	const ticks = [];
	for (let frame = first; frame <= last; frame++) {
		const major = frame === first || frame % step === 0 || frame === last;
		if (!major && (frame % minor !== 0 || minor * perFrame < 4)) continue;
		const crowded = frame !== first && frame !== last && (last - frame) * perFrame < 34;
		ticks.push(
			<g key={frame}>
				<line x1={x(frame)} x2={x(frame)} y1={major ? 17 : 20} y2={26} stroke="var(--slate)" strokeWidth={1} opacity={major ? 0.9 : 0.5} />
				{major && !crowded && (frame === first || frame === last || (frame - first) * perFrame >= 22) && (
					<text
						x={x(frame)}
						y={13}
						textAnchor={frame === first ? "start" : frame === last ? "end" : "middle"}
						fontSize={11}
						fill="var(--slate)"
						className="number"
					>
						{frame}
					</text>
				)}
			</g>,
		);
	}
	return <g>{ticks}</g>;
}

function Band({
	first,
	last,
	stored,
	stale,
	x,
	running,
}: {
	first: number;
	last: number;
	stored: number;
	stale: number;
	x: (frame: number) => number;
	running: number | undefined;
}) {
	const piece = (from: number, to: number, fill: string, label: string) =>
		to >= from && (
			<rect
				x={x(from - (from > first ? 0.5 : 0))}
				width={Math.max(2, x(to + (to < last ? 0.5 : 0)) - x(from - (from > first ? 0.5 : 0)))}
				y={30}
				height={6}
				fill={fill}
			>
				<title>{label}</title>
			</rect>
		);
	const good = Math.min(stored, stale - 1);
	return (
		<g data-band={`${first}-${good}/${stored}`}>
			<rect x={x(first)} width={x(last) - x(first)} y={30} height={6} rx={2} fill="var(--line)" />
			{piece(first, Math.min(good, last), "var(--sea)", `Frames ${first} to ${good} are stored`)}
			{piece(Math.max(first, stale), Math.min(stored, last), "var(--ochre-band)", `Frames ${stale} to ${stored} are out of date`)}
			{running !== undefined && running >= first && <circle cx={x(Math.min(running, last))} cy={33} r={5} fill="var(--kelp)" />}
		</g>
	);
}

interface EventCounts {
	readonly contacts: readonly (readonly [frame: number, count: number])[];
	readonly wakes: ReadonlyMap<number, number>;
	/** Bonds and connectors that let go. */
	readonly breaks: ReadonlyMap<number, number>;
	readonly totalBreaks: number;
	readonly most: number;
	readonly mostAt: number;
	readonly totalWakes: number;
}

function countEvents(frames: ReturnType<typeof useWorkbench.getState>["frames"]): EventCounts {
	const contacts: [number, number][] = [];
	const wakes = new Map<number, number>();
	const breaks = new Map<number, number>();
	let totalBreaks = 0;
	let most = 0;
	let mostAt = 0;
	let totalWakes = 0;
	for (const chunk of frames.chunks) {
		chunk.contacts.forEach((count, i) => {
			contacts.push([chunk.firstFrame + i, count]);
			if (count > most) {
				most = count;
				mostAt = chunk.firstFrame + i;
			}
		});
		chunk.events.kind.forEach((kind, k) => {
			const frame = chunk.events.frame[k]!;
			if (isBreak(kind) || kind === EventKind.Parted) {
				totalBreaks++;
				breaks.set(frame, (breaks.get(frame) ?? 0) + 1);
			}
			if (kind !== EventKind.Wake) return;
			totalWakes++;
			wakes.set(frame, (wakes.get(frame) ?? 0) + 1);
		});
	}
	return { contacts, wakes, breaks, totalBreaks, most, mostAt, totalWakes };
}

const BASE = 104;
const TALL = 46;

function Events({ events, x, slot }: { events: EventCounts; x: (frame: number) => number; slot: number }) {
	const bar = Math.max(1, Math.min(10, slot * 0.72));
	const most = Math.max(events.most, ...events.wakes.values(), ...events.breaks.values(), 1);
	const height = (count: number) => (count === 0 ? 0 : Math.max(1.5, TALL * Math.sqrt(count / most)));
	return (
		<g>
			<line x1={PAD} x2="100%" y1={BASE} y2={BASE} stroke="var(--line)" />
			{events.contacts.map(
				([frame, count]) =>
					count > 0 && (
						<rect key={frame} x={x(frame) - bar / 2} width={bar} y={BASE - height(count)} height={height(count)} fill="var(--bar)" />
					),
			)}
			{[...events.wakes].map(([frame, count]) => (
				<rect
					key={frame}
					x={x(frame) - bar / 2}
					width={bar}
					y={BASE - height(count)}
					height={height(count)}
					fill="var(--kelp)"
					opacity={0.85}
				/>
			))}
			{[...events.breaks].map(([frame, count]) => (
				<rect key={frame} x={x(frame) - bar / 2} width={bar / 2} y={BASE - height(count)} height={height(count)} fill="var(--rust)" />
			))}
		</g>
	);
}

function Legend({ events }: { events: EventCounts }) {
	if (events.contacts.length === 0)
		return (
			<p className="absolute bottom-1.5 left-3.5 text-xs text-slate">
				What happens in a run stands here: blows, bodies that wake, bonds that break.
			</p>
		);
	return (
		<p className="absolute bottom-1 left-3.5 flex gap-4 text-xs text-slate">
			<span>
				<i className="mr-1 inline-block size-2 rounded-[1px] bg-(--bar)" />
				blows, most <span className="number">{events.most.toLocaleString("en")}</span> at frame{" "}
				<span className="number">{events.mostAt}</span>
			</span>
			{events.totalWakes > 0 && (
				<span>
					<i className="mr-1 inline-block size-2 rounded-[1px] bg-kelp" />
					woken <span className="number">{events.totalWakes.toLocaleString("en")}</span>
				</span>
			)}
			{events.totalBreaks > 0 && (
				<span>
					<i className="mr-1 inline-block size-2 rounded-[1px] bg-rust" />
					bonds broken <span className="number">{events.totalBreaks.toLocaleString("en")}</span>
				</span>
			)}
		</p>
	);
}
