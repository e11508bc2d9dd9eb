import { differences, restsFrom, type TakeSeries } from "@rubble/core/takes";
import { Pause, Play, Star } from "lucide-react";
import { Slider, Tooltip } from "radix-ui";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { toast } from "sonner";
import { Segments } from "~/controls/Choice";
import { Hint } from "~/controls/Hint";
import { PageHeader } from "~/controls/PageHeader";
import { useDraft } from "~/controls/useDraft";
import type { TakeCard } from "~/data/takes.server";
import { useJobs } from "~/jobs/useJobs";
import { ThemeButton } from "~/workbench/TopBar";
import { coreWorker } from "~/workers/client";
import type { TakeScene } from "~/workers/messages";
import { getJson, sendJson } from "~/workers/network";
import { OverlapChart } from "./OverlapChart";
import { everyFrame, SeriesChart, TAKE_COLOURS } from "./SeriesChart";
import { TakePicture } from "./TakePicture";
import type { Sight } from "./takeView";

type Mode = "side" | "overlay" | "flip";
/** More pictures than this side by side are too small to be judged. */
const MOST = 4;

/** What is charted of every take; some only where there is any of it. */
const CHARTS: readonly { title: string; unit: string; of: (series: TakeSeries) => readonly number[]; always?: boolean }[] = [
	{ title: "Broken", unit: "bonds, connectors", of: ({ broken }) => broken },
	{ title: "Kinetic energy", unit: "J", of: ({ energy }) => energy, always: true },
	{ title: "Awake", unit: "bodies", of: ({ awake }) => awake, always: true },
	{ title: "Blows", unit: "contacts a frame", of: ({ contacts }) => contacts, always: true },
	{ title: "Lost", unit: "bodies", of: ({ lost }) => lost },
];

/** Takes beside each other: pictures at one frame, how they went, and what differs. */
export default function TakesBoard({ shotId, name, first }: { shotId: string; name: string; first: readonly TakeCard[] }) {
	const { takes, reload } = useTakes(shotId, first);
	const [search] = useSearchParams();
	const [chosen, setChosen] = useState<readonly string[]>(() => {
		const asked = (search.get("with") ?? "").split(",").filter((id) => first.some((take) => take.id === id));
		if (asked.length > 0) return asked.slice(0, MOST);
		const run = first.filter(({ frames }) => frames > 0);
		const good = run.find(({ picked }) => picked);
		return [...new Set([...(good ? [good] : []), ...run.slice(-2)].map(({ id }) => id))].slice(0, 2);
	});
	const [mode, setMode] = useState<Mode>("side");
	const [flipped, setFlipped] = useState(false);
	const [frame, setFrame] = useState<number | null>(null);
	const [playing, setPlaying] = useState(false);
	const [sight, setSight] = useState<Sight | null>(null);
	const scenes = useScenes(chosen, takes);
	const ready = useMemo(() => chosen.flatMap((id) => scenes.get(id) ?? []), [chosen, scenes]);
	const firstFrame = Math.min(...ready.map(({ take }) => take.snapshot.settings.firstFrame), Number.POSITIVE_INFINITY);
	const lastFrame = Math.max(...ready.map(({ series }) => series.firstFrame + series.energy.length - 1), Number.NEGATIVE_INFINITY);
	const at = Math.min(lastFrame, Math.max(firstFrame, frame ?? Math.round((firstFrame + lastFrame) / 2)));
	const any = Number.isFinite(at);
	const toggle = (id: string) => setChosen(chosen.includes(id) ? chosen.filter((other) => other !== id) : [...chosen, id].slice(-MOST));
	usePlaying(playing, at, firstFrame, lastFrame, ready[0]?.take.snapshot.settings.fps ?? 24, setFrame);
	useBoardKeys({
		play: () => any && setPlaying((now) => !now),
		flip: () => {
			setMode("flip");
			setFlipped((now) => !now);
		},
		step: (by) => {
			setPlaying(false);
			if (any) setFrame(Math.min(lastFrame, Math.max(firstFrame, at + by)));
		},
	});
	const rows = useMemo(() => (ready.length > 1 ? differences(ready.map(({ take }) => take.snapshot)) : []), [ready]);
	const colourOf = (id: string) => TAKE_COLOURS[chosen.indexOf(id) % TAKE_COLOURS.length]!;
	const navigate = useNavigate();
	/** The good one is what the bench shows and what Bake writes; its settings are offered. */
	const pick = async (item: TakeCard) => {
		await change(item, item.picked ? { picked: false } : { picked: true, shown: true });
		if (!item.picked)
			toast.success(`${item.name} is what the bench shows now, and what Bake writes.`, {
				duration: 10_000,
				action: { label: "Take up its settings", onClick: () => void navigate(`/shots/${shotId}/run?settings=${item.id}`) },
			});
	};
	const change = async (item: TakeCard, facts: Partial<Pick<TakeCard, "picked" | "note">> & { readonly shown?: true }) => {
		try {
			await sendJson(`/api/takes/${item.id}`, "PATCH", facts);
			await reload();
		} catch (error) {
			toast.error((error as Error).message);
		}
	};
	const cardOf = (id: string) => takes.find((item) => item.id === id);
	const charts = CHARTS.filter(({ always, of }) => always || ready.some(({ series }) => of(series).some((value) => value > 0)));
	const shown = mode === "flip" && ready.length > 1 ? [ready[flipped ? 1 : 0]!] : mode === "overlay" ? ready.slice(0, 1) : ready;
	return (
		<Tooltip.Provider>
			<PageHeader>
				<div>
					<h1 className="font-semibold">{name} · Takes</h1>
					<p className="text-xs text-slate">
						{takes.length} {takes.length === 1 ? "take" : "takes"}
						{any && ` · frame ${at}`}
					</p>
				</div>
				<span className="flex-1" />
				<ThemeButton />
				<Link to={`/shots/${shotId}/run`} className="button">
					Back to the bench
				</Link>
			</PageHeader>
			<main id="main" className="mx-auto max-w-[1400px] p-5">
				<div className="flex items-start gap-3">
					<span className="mt-1.5 text-slate">Compare</span>
					<div className="flex flex-1 flex-wrap gap-2">
						{takes.map((item) => (
							<TakeChip
								key={item.id}
								item={item}
								colour={chosen.includes(item.id) ? colourOf(item.id) : undefined}
								onClick={() => toggle(item.id)}
							/>
						))}
					</div>
					<div className="w-72 shrink-0">
						<Segments
							compact
							label="Pictures"
							value={mode}
							options={[
								{ id: "side", label: "Side by side" },
								{ id: "overlay", label: "Overlay", help: "The second take as outlines over the first" },
								{ id: "flip", label: "Flip", help: "One after the other in the same place: X" },
							]}
							onChange={(id) => setMode(id as Mode)}
						/>
					</div>
				</div>
				{ready.length === 0 && (
					<p className="mt-10 text-center text-slate">
						{chosen.length > 0 ? "Loading the takes …" : "Choose takes above. A sweep in Run makes several at once."}
					</p>
				)}
				{ready.length > 0 && (
					<>
						<div className={`mt-4 grid gap-3.5 ${shown.length > 1 ? "grid-cols-2" : "grid-cols-1"}`}>
							{shown.map((scene, n) => {
								const card = cardOf(scene.id);
								return (
									<figure key={scene.id} className="overflow-hidden rounded-md border border-line bg-chalk">
										<TakePicture
											scene={scene}
											over={mode === "overlay" ? ready[1] : undefined}
											overColour={ready[1] ? colourOf(ready[1].id) : ""}
											frame={at}
											sight={sight}
											onSight={setSight}
											wide={shown.length === 1}
											leads={n === 0}
										/>
										<figcaption className="flex items-center gap-2 px-3 py-2">
											<span className="size-2.5 rounded-full" style={{ background: colourOf(scene.id) }} />
											<span className="font-semibold">{scene.name}</span>
											{mode === "overlay" && ready[1] && <span className="text-slate">with {ready[1].name} as outlines</span>}
											<span className="number ml-auto text-slate">{summary(scene)}</span>
											<PickButton item={card} onClick={pick} />
										</figcaption>
										{card && <NoteLine item={card} onChange={(note) => void change(card, { note })} />}
									</figure>
								);
							})}
						</div>
						<div className="mt-3 flex items-center gap-3">
							<Hint text={playing ? "Pause (Space)" : "Play true to time (Space)"}>
								<button
									type="button"
									className="button px-2!"
									aria-label={playing ? "Pause" : "Play"}
									aria-pressed={playing}
									onClick={() => setPlaying(!playing)}
								>
									{playing ? <Pause size={14} fill="currentColor" /> : <Play size={14} fill="currentColor" />}
								</button>
							</Hint>
							<span className="number w-20 text-slate">frame {at}</span>
							<Slider.Root
								className="relative flex h-5 flex-1 touch-none items-center"
								min={firstFrame}
								max={Math.max(firstFrame + 1, lastFrame)}
								value={[at]}
								onValueChange={([value]) => {
									setPlaying(false);
									setFrame(value ?? firstFrame);
								}}
							>
								<Slider.Track className="relative h-0.5 flex-1 bg-line">
									<Slider.Range className="absolute h-0.5 bg-kelp" />
								</Slider.Track>
								<Slider.Thumb aria-label="Frame" className="block size-4 rounded-full bg-kelp" />
							</Slider.Root>
							<span className="number w-20 text-right text-slate">of {lastFrame}</span>
						</div>
						<div className="mt-4 grid grid-cols-2 gap-3.5 lg:grid-cols-4">
							{charts.map(({ title, unit, of }) => (
								<SeriesChart key={title} title={title} unit={unit} curves={everyFrame(ready, of)} colourOf={colourOf} frame={at} />
							))}
							<OverlapChart scenes={ready} colourOf={colourOf} frame={at} />
							<Differences scenes={ready} rows={rows} />
						</div>
					</>
				)}
			</main>
		</Tooltip.Provider>
	);
}

function TakeChip({ item, colour, onClick }: { item: TakeCard; colour: string | undefined; onClick: () => void }) {
	const of = item.lastFrame - item.firstFrame + 1;
	const state =
		item.job && item.job.state !== "done"
			? `${item.job.state} · ${Math.round(item.job.fraction * 100)} %`
			: item.frames < of
				? `${item.frames} of ${of}`
				: "";
	return (
		<button
			type="button"
			aria-pressed={colour !== undefined}
			disabled={item.frames === 0}
			className="flex h-8 items-center gap-1.5 rounded-full border bg-field px-3 disabled:text-slate"
			style={
				colour
					? { borderColor: colour, color: colour, boxShadow: `0 2px 0 ${colour}`, fontWeight: 600 }
					: { borderColor: "var(--color-line)" }
			}
			onClick={onClick}
			title={item.note}
		>
			{item.picked && <Star size={12} fill="currentColor" aria-label="the good one" />}
			{item.name}
			{state && <span className="number text-xs font-normal text-slate">{state}</span>}
		</button>
	);
}

function PickButton({ item, onClick }: { item: TakeCard | undefined; onClick: (item: TakeCard) => Promise<void> }) {
	if (!item) return null;
	return (
		<button type="button" className="button" aria-pressed={item.picked} onClick={() => void onClick(item)}>
			<Star size={13} fill={item.picked ? "currentColor" : "none"} className="text-kelp" /> {item.picked ? "The good one" : "Pick"}
		</button>
	);
}

/** What somebody has written about a take. */
function NoteLine({ item, onChange }: { item: TakeCard; onChange: (note: string) => void }) {
	return (
		<input
			aria-label={`Note on ${item.name}`}
			placeholder="Add a note"
			className="w-full truncate bg-transparent px-3 pb-2 text-slate placeholder:text-slate focus:text-ink"
			{...useDraft(item.note, onChange)}
		/>
	);
}

function summary({ series, take }: TakeScene): string {
	const rest = restsFrom(series);
	const { lastFrame } = take.snapshot.settings;
	const broken = series.broken.at(-1) ?? 0;
	const lost = series.lost.at(-1) ?? 0;
	return [
		broken > 0 ? `${broken.toLocaleString("en")} broken` : "",
		lost > 0 ? `${lost.toLocaleString("en")} lost` : "",
		rest !== undefined
			? `at rest by ${rest}`
			: `${series.awake.at(-1)!.toLocaleString("en")} awake at ${Math.min(lastFrame, series.firstFrame + series.awake.length - 1)}`,
	]
		.filter((part) => part !== "")
		.join(" · ");
}

function Differences({ scenes, rows }: { scenes: readonly TakeScene[]; rows: ReturnType<typeof differences> }) {
	return (
		<section className="min-w-0 rounded-md border border-line bg-chalk p-3" aria-label="What differs">
			<h2 className="font-semibold">What differs</h2>
			{scenes.length < 2 ? (
				<p className="mt-1 text-slate">Choose a second take.</p>
			) : rows.length === 0 ? (
				<p className="mt-1 text-slate">Nothing: they ran with the same settings.</p>
			) : (
				<div className="mt-1 max-h-40 overflow-auto">
					<table className="w-full">
						<thead>
							<tr className="text-left">
								<th />
								{scenes.map(({ id, name }) => (
									<th key={id} className="max-w-24 truncate pl-2 text-right font-normal text-slate" title={name}>
										{name}
									</th>
								))}
							</tr>
						</thead>
						<tbody>
							{rows.map(({ label, texts }) => (
								<tr key={label} className="border-t border-line">
									<td className="py-1 text-slate">{label}</td>
									{texts.map((text, n) => (
										<td key={scenes[n]?.id ?? n} className="number py-1 pl-2 text-right">
											{text}
										</td>
									))}
								</tr>
							))}
						</tbody>
					</table>
				</div>
			)}
		</section>
	);
}

/** The list of takes, kept up to date while workers are at it. */
function useTakes(shotId: string, first: readonly TakeCard[]) {
	const [takes, setTakes] = useState(first);
	const { list } = useJobs();
	const working = list?.jobs
		.filter(({ shot }) => shot === shotId)
		.map(({ id, state, fraction }) => `${id}${state}${fraction}`)
		.join();
	const reload = useCallback(async () => setTakes((await getJson(`/api/shots/${shotId}/takes`)) as readonly TakeCard[]), [shotId]);
	useEffect(() => {
		if (working) reload().catch(() => undefined);
	}, [working, reload]);
	return { takes, reload };
}

/** What the chosen takes look like; loaded once, and again when a take has got more frames. */
function useScenes(chosen: readonly string[], takes: readonly TakeCard[]): ReadonlyMap<string, TakeScene> {
	const [scenes, setScenes] = useState<ReadonlyMap<string, TakeScene>>(new Map());
	const loading = useRef(new Map<string, string>());
	const wanted = chosen.map((id) => `${id} ${takes.find((take) => take.id === id)?.updatedAt ?? ""}`).join();
	useEffect(() => {
		for (const part of wanted.split(",").filter((word) => word !== "")) {
			const [id, version] = part.split(" ") as [string, string];
			if (loading.current.get(id) === version) continue;
			loading.current.set(id, version);
			coreWorker()
				.takeScene(id)
				.then((scene) => setScenes((known) => new Map(known).set(id, scene)))
				.catch((error) => toast.error(`A take cannot be shown: ${(error as Error).message}`));
		}
	}, [wanted]);
	return scenes;
}

/** Goes on through the frames while it plays, true to time, and begins again after the last one. */
function usePlaying(playing: boolean, at: number, first: number, last: number, fps: number, show: (frame: number) => void): void {
	const now = useRef({ at, show });
	now.current = { at, show };
	useEffect(() => {
		if (!playing || !(last > first)) return;
		const begun = performance.now();
		const from = now.current.at - first;
		let request = requestAnimationFrame(function turn() {
			const passed = Math.floor(((performance.now() - begun) * fps) / 1000);
			const frame = first + ((from + passed) % (last - first + 1));
			if (frame !== now.current.at) now.current.show(frame);
			request = requestAnimationFrame(turn);
		});
		return () => cancelAnimationFrame(request);
	}, [playing, first, last, fps]);
}

function useBoardKeys(given: { play: () => void; flip: () => void; step: (by: number) => void }): void {
	const acts = useRef(given);
	acts.current = given;
	useEffect(() => {
		const onKey = (event: KeyboardEvent) => {
			if ((event.target as HTMLElement).closest("input, textarea, [role=slider]") || event.ctrlKey || event.altKey || event.metaKey) return;
			if (event.key.toLowerCase() === "x") acts.current.flip();
			else if (event.key === " " && !(event.target as HTMLElement).closest("button, a")) acts.current.play();
			else if (event.key === "ArrowLeft") acts.current.step(event.shiftKey ? -10 : -1);
			else if (event.key === "ArrowRight") acts.current.step(event.shiftKey ? 10 : 1);
			else return;
			event.preventDefault();
		};
		window.addEventListener("keydown", onKey);
		return () => window.removeEventListener("keydown", onKey);
	}, []);
}
