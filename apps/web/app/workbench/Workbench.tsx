import type { Vec3 } from "@rubble/core/maths";
import { objectOf, type Shot } from "@rubble/core/shot";
import { Dialog, Tooltip } from "radix-ui";
import { useCallback, useEffect, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { FpsContext } from "~/controls/fps";
import { BakeBench } from "~/features/bake/BakeBench";
import { BindBench } from "~/features/bind/BindBench";
import { BreakBench } from "~/features/break/BreakBench";
import { CurvesPanel } from "~/features/keys/CurvesPanel";
import { PushBench } from "~/features/push/PushBench";
import { RunBench } from "~/features/run/RunBench";
import { ImportDialog, importFiles } from "~/features/shape/importFile";
import { ShapeBench } from "~/features/shape/ShapeBench";
import { WeighBench } from "~/features/weigh/WeighBench";
import { takeOver } from "~/yard/handOver";
import { Checks } from "./checks/Checks";
import { History } from "./History";
import { useShortcuts } from "./keys";
import { Ledger } from "./ledger/Ledger";
import { Notices } from "./Notices";
import { Palette } from "./Palette";
import { SHORTCUTS } from "./shortcuts";
import type { StageId } from "./stages";
import { followEdits } from "./store/follow";
import { currentObject } from "./store/selectors";
import { fractureFor, openShot, takeUpSettings } from "./store/session";
import { useWorkbench, type WorkbenchState } from "./store/store";
import { TopBar } from "./TopBar";
import { Timeline } from "./timeline/Timeline";
import { ViewPane } from "./ViewPane";
import type { View } from "./view/view";

const BENCHES: Record<StageId, () => React.ReactNode> = {
	shape: ShapeBench,
	break: BreakBench,
	weigh: WeighBench,
	bind: BindBench,
	push: PushBench,
	run: RunBench,
	bake: BakeBench,
};

interface Props {
	readonly shotId: string;
	readonly stage: StageId;
	readonly shot: Shot;
	readonly revision: number;
	readonly savedAt: string;
}

/** The seven stages of one shot on one page. Stage and picked object stand in the address. */
export default function Workbench({ shotId, stage, shot, revision, savedAt }: Props) {
	const navigate = useNavigate();
	const [search] = useSearchParams();
	const at = search.get("at");
	const [palette, setPalette] = useState(false);
	const [help, setHelp] = useState(false);
	const [history, setHistory] = useState(false);
	const view = useRef<View | undefined>(undefined);
	const first = useRef({ shot, revision, savedAt, at });

	useEffect(() => {
		const close = openShot(shotId, first.current.shot, first.current.revision, first.current.savedAt);
		const leave = followEdits();
		if (first.current.at) useWorkbench.getState().select([first.current.at]);
		const file = takeOver();
		if (file) importFiles([file]);
		// For the interface tests and for reports of faults.
		Object.assign(window, { rubble: { state: useWorkbench.getState, project: (place: Vec3) => view.current?.project(place) } });
		return () => {
			leave();
			close();
		};
	}, [shotId]);

	const setView = useCallback((next: View | undefined) => {
		view.current = next;
	}, []);
	const goTo = useCallback(
		(next: StageId) => {
			navigate({ pathname: `/shots/${shotId}/${next}`, search: window.location.search }, { preventScrollReset: true });
		},
		[navigate, shotId],
	);
	useSelectionInAddress();
	useSettingsOf(search.get("settings"));
	usePicture(shotId, view);
	useShortcuts(
		goTo,
		useCallback(() => setPalette(true), []),
		useCallback(() => setHelp(true), []),
	);
	const Bench = BENCHES[stage];
	const fps = useWorkbench((state) => state.shot.settings.fps);
	const name = useWorkbench((state) => state.shot.name);
	const bench = useRef<HTMLElement>(null);
	const method = useWorkbench(fractureMethod);
	// Another stage or another way to break begins at its top; another object stays where its neighbour was read.
	// biome-ignore lint/correctness/useExhaustiveDependencies: they are what it follows
	useEffect(() => {
		bench.current?.scrollTo(0, 0);
	}, [stage, method]);
	return (
		<Tooltip.Provider>
			<FpsContext.Provider value={fps}>
				<div className="flex h-screen flex-col overflow-hidden">
					<TopBar stage={stage} onStage={goTo} onPalette={() => setPalette(true)} onHistory={() => setHistory(true)} />
					<Notices />
					<main id="main" className="flex min-h-0 flex-1">
						<h1 className="sr-only">{name}</h1>
						<aside className="flex w-66 shrink-0 flex-col border-r border-line bg-chalk">
							<Ledger />
							<Checks />
						</aside>
						<ViewPane onView={setView} />
						<aside ref={bench} className="w-80 shrink-0 overflow-auto border-l border-line bg-chalk" aria-label="Bench">
							<Bench />
						</aside>
					</main>
					<CurvesPanel />
					<Timeline />
					<Palette open={palette} onOpen={setPalette} onStage={goTo} onHistory={() => setHistory(true)} />
					<History open={history} onOpen={setHistory} />
					<ImportDialog />
					<HelpDialog open={help} onOpen={setHelp} />
				</div>
			</FpsContext.Provider>
		</Tooltip.Provider>
	);
}

/** How the object that the bench is about is broken. */
function fractureMethod(state: WorkbenchState): string | undefined {
	const object = currentObject(state);
	return object === undefined ? undefined : fractureFor(state.shot, object)?.fracture.method;
}

/** The picked object stands in the address, so that a reload and a link find it again. */
function useSelectionInAddress(): void {
	const navigate = useNavigate();
	useEffect(
		() =>
			useWorkbench.subscribe((state, before) => {
				if (state.selection === before.selection) return;
				const last = state.selection[state.selection.length - 1];
				const id = last === undefined ? undefined : objectOf(state.shot, last);
				const url = new URL(window.location.href);
				if ((url.searchParams.get("at") ?? undefined) === id) return;
				if (id) url.searchParams.set("at", id);
				else url.searchParams.delete("at");
				navigate({ pathname: url.pathname, search: url.search }, { replace: true, preventScrollReset: true });
			}),
		[navigate],
	);
}

/** Takes up the settings of a take that the address asks for, once it is on show; they are asked for once. */
function useSettingsOf(take: string | null): void {
	const navigate = useNavigate();
	const shown = useWorkbench((state) => state.take?.id);
	useEffect(() => {
		if (take === null || shown !== take) return;
		takeUpSettings(take);
		const url = new URL(window.location.href);
		url.searchParams.delete("settings");
		navigate({ pathname: url.pathname, search: url.search }, { replace: true, preventScrollReset: true });
	}, [take, shown, navigate]);
}

const PICTURE_PAUSE = 4000; // ms without an edit

/** Keeps the yard's picture of the shot fresh. */
function usePicture(shotId: string, view: React.RefObject<View | undefined>): void {
	useEffect(() => {
		let timer: ReturnType<typeof setTimeout> | undefined;
		const save = async () => {
			const picture = await view.current?.picture();
			if (picture)
				await fetch(`/api/shots/${shotId}/picture`, { method: "POST", body: picture, headers: { "Content-Type": picture.type } }).catch(
					() => undefined,
				);
		};
		const stop = useWorkbench.subscribe((state, before) => {
			if (state.looking || (state.drawings === before.drawings && state.frames === before.frames)) return;
			clearTimeout(timer);
			timer = setTimeout(() => void save(), PICTURE_PAUSE);
		});
		return () => {
			stop();
			clearTimeout(timer);
		};
	}, [shotId, view]);
}

function HelpDialog({ open, onOpen }: { open: boolean; onOpen: (open: boolean) => void }) {
	return (
		<Dialog.Root open={open} onOpenChange={onOpen}>
			<Dialog.Portal>
				<Dialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
				<Dialog.Content
					aria-describedby={undefined}
					className="fixed top-1/2 left-1/2 z-50 w-110 -translate-x-1/2 -translate-y-1/2 rounded-md border border-line bg-chalk p-5"
				>
					<Dialog.Title className="text-base font-semibold">All keys</Dialog.Title>
					<dl className="mt-3 grid grid-cols-[120px_1fr] gap-y-1.5">
						{SHORTCUTS.map(({ keys, what }) => (
							<div key={keys} className="contents">
								<dt className="number">{keys}</dt>
								<dd className="text-slate">{what}</dd>
							</div>
						))}
					</dl>
					<p className="mt-3 text-slate">
						In the view: middle drag orbits, right drag pans, the wheel zooms. A drag on empty space orbits too.
					</p>
					<div className="mt-4 flex justify-end">
						<Dialog.Close className="button">Close</Dialog.Close>
					</div>
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}
