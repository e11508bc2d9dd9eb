import { methodById } from "@rubble/core/fracture";
import { Copy, Download, FolderOpen, Plus, Search, Trash2 } from "lucide-react";
import { AlertDialog, Tooltip } from "radix-ui";
import { useEffect, useState } from "react";
import { Form, Link, useNavigate, useNavigation, useSubmit } from "react-router";
import { toast } from "sonner";
import { FileButton } from "~/controls/FileButton";
import type { StoredPreset } from "~/data/presets.server";
import type { ShotCard } from "~/data/shots.server";
import { ThemeButton } from "~/workbench/TopBar";
import { send } from "~/workers/network";
import { handOver } from "./handOver";
import { when } from "./when";

interface Props {
	readonly shots: readonly ShotCard[];
	readonly trash: readonly ShotCard[];
	readonly trashDays: number;
	readonly samples: readonly { readonly id: string; readonly name: string; readonly note: string }[];
	readonly presets: readonly StoredPreset[];
	readonly message: string;
}

/** All shots with their pictures; the way to a new one, from nothing, from a sample or from a file. */
export function Yard({ shots, trash, trashDays, samples, presets, message }: Props) {
	const [find, setFind] = useState("");
	const [question, setQuestion] = useState<Question | null>(null);
	const submit = useSubmit();
	const busy = useNavigation().state !== "idle";
	useEffect(() => {
		if (message) toast.error(message, { duration: 9000 });
	}, [message]);
	const navigate = useNavigate();
	const open = async (file: File) => {
		if (/\.zip$/i.test(file.name)) {
			const opening = toast.loading(`Opening ${file.name} …`);
			try {
				const { id } = (await send("/api/shots", "POST", file, "application/zip")) as { id: string };
				await navigate(`/shots/${id}/run`);
			} catch (error) {
				toast.error((error as Error).message, { duration: 9000 });
			} finally {
				toast.dismiss(opening);
			}
			return;
		}
		if (/\.json$/i.test(file.name))
			submit({ intent: "open", document: await file.text() }, { method: "post", encType: "application/json" });
		else {
			handOver(file);
			submit({ intent: "new" }, { method: "post" });
		}
	};
	const shown = shots.filter((shot) => `${shot.name} ${shot.note}`.toLowerCase().includes(find.toLowerCase()));
	return (
		<Tooltip.Provider>
			<header className="flex h-13 items-center gap-3 border-b border-line bg-chalk px-4">
				<img src="/mark.svg" alt="" width={24} height={24} />
				<span className="text-base font-semibold">Mighty Rubble</span>
				<span className="flex-1" />
				<Link to="/jobs" className="button">
					Jobs
				</Link>
				<Link to="/guide" className="button">
					Guide
				</Link>
				<ThemeButton />
			</header>
			<main id="main" className="mx-auto max-w-7xl p-6">
				<div className="flex items-end gap-3">
					<div className="flex-1">
						<h1 className="text-xl font-semibold">Yard</h1>
						<p className="text-slate">Your shots. Everything in Saltmarsh Harbour is made up and yours to take apart.</p>
					</div>
					<div className="field w-60! gap-2 font-sans!">
						<Search size={14} className="shrink-0 text-slate" aria-hidden />
						<input aria-label="Find a shot" placeholder="Find a shot" value={find} onChange={(event) => setFind(event.target.value)} />
					</div>
					<FileButton accept={ACCEPT} onFile={(file) => void open(file)}>
						<FolderOpen size={15} /> Open file
					</FileButton>
					<Form method="post">
						<input type="hidden" name="intent" value="new" />
						<button type="submit" className="button button-primary" disabled={busy}>
							<Plus size={15} /> New shot
						</button>
					</Form>
				</div>
				<ul className="mt-5 grid grid-cols-[repeat(auto-fill,minmax(280px,1fr))] gap-4">
					{shown.map((shot) => (
						<Card key={shot.id} shot={shot} onAsk={setQuestion} />
					))}
					{find === "" && <DropCard onFile={(file) => void open(file)} />}
				</ul>
				{shown.length === 0 && find !== "" && <p className="mt-6 text-slate">No shot is called “{find}”.</p>}
				<h2 className="mt-8 font-semibold">Samples</h2>
				<p className="text-slate">A fresh copy each time.</p>
				<ul className="mt-3 grid grid-cols-[repeat(auto-fill,minmax(280px,1fr))] gap-4">
					{samples.map((sample) => (
						<li key={sample.id}>
							<Form method="post">
								<input type="hidden" name="intent" value="sample" />
								<input type="hidden" name="id" value={sample.id} />
								<button
									type="submit"
									disabled={busy}
									className="flex w-full items-center gap-3 overflow-hidden rounded-md border border-line bg-chalk pr-3 text-left hover:border-kelp"
								>
									<img src={`/samples/${sample.id}.webp`} alt="" className="h-18 w-30 shrink-0 object-cover" />
									<span>
										<span className="block font-semibold">{sample.name}</span>
										<span className="line-clamp-2 text-slate">{sample.note}</span>
									</span>
									<Plus size={16} className="ml-auto shrink-0 text-kelp" />
								</button>
							</Form>
						</li>
					))}
				</ul>
				{presets.length > 0 && <Presets presets={presets} />}
				{trash.length > 0 && <Trash shots={trash} days={trashDays} onAsk={setQuestion} />}
			</main>
			<Confirm question={question} onClose={() => setQuestion(null)} />
		</Tooltip.Provider>
	);
}

/** What was deleted, and can be taken back for a while. */
function Trash({ shots, days, onAsk }: { shots: readonly ShotCard[]; days: number; onAsk: (question: Question) => void }) {
	const submit = useSubmit();
	return (
		<section aria-labelledby="trash">
			<h2 id="trash" className="mt-8 font-semibold">
				Trash
			</h2>
			<p className="text-slate">Deleted shots stay here for {days} days, with their takes.</p>
			<ul className="mt-3 flex flex-col rounded-md border border-line bg-chalk">
				{shots.map(({ id, name, deletedAt }) => (
					<li key={id} className="flex items-center gap-3 border-t border-line py-1.5 pr-1.5 pl-3 first:border-t-0">
						<span className="min-w-0 flex-1 truncate font-medium">{name}</span>
						<time className="number text-xs text-slate" dateTime={deletedAt!} suppressHydrationWarning>
							deleted {when(deletedAt!)}
						</time>
						<button
							type="button"
							className="button"
							aria-label={`Take back ${name}`}
							onClick={() => submit({ intent: "restore", id }, { method: "post" })}
						>
							Take back
						</button>
						<button
							type="button"
							className="button button-quiet px-2!"
							aria-label={`Delete ${name} for good`}
							onClick={() =>
								onAsk({
									title: `Delete ${name} for good?`,
									text: "The shot and its takes cannot be taken back after that.",
									act: "Delete for good",
									onAct: () => submit({ intent: "purge", id }, { method: "post" }),
								})
							}
						>
							<Trash2 size={14} />
						</button>
					</li>
				))}
			</ul>
		</section>
	);
}

/** What is asked before something is thrown away. */
interface Question {
	readonly title: string;
	readonly text: string;
	readonly act: string;
	readonly onAct: () => void;
}

/** One for the whole yard: a dialog of its own for each of a hundred cards took half of the time in which the page is made. */
function Confirm({ question, onClose }: { question: Question | null; onClose: () => void }) {
	return (
		<AlertDialog.Root open={question !== null} onOpenChange={(open) => !open && onClose()}>
			<AlertDialog.Portal>
				<AlertDialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
				<AlertDialog.Content className="fixed top-1/2 left-1/2 z-50 w-96 -translate-x-1/2 -translate-y-1/2 rounded-md border border-line bg-chalk p-5">
					<AlertDialog.Title className="text-base font-semibold">{question?.title}</AlertDialog.Title>
					<AlertDialog.Description className="mt-1 text-slate">{question?.text}</AlertDialog.Description>
					<div className="mt-4 flex justify-end gap-2">
						<AlertDialog.Cancel className="button">Keep it</AlertDialog.Cancel>
						<AlertDialog.Action className="button border-rust! text-rust!" onClick={question?.onAct}>
							{question?.act}
						</AlertDialog.Action>
					</div>
				</AlertDialog.Content>
			</AlertDialog.Portal>
		</AlertDialog.Root>
	);
}

/** Breaks that were kept; they stand on the bench of every shot. */
function Presets({ presets }: { presets: readonly StoredPreset[] }) {
	const submit = useSubmit();
	return (
		<section aria-labelledby="presets">
			<h2 id="presets" className="mt-8 font-semibold">
				Break presets
			</h2>
			<p className="text-slate">Kept from a break; they stand first among the ways to break in every shot.</p>
			<ul className="mt-3 flex flex-wrap gap-2">
				{presets.map(({ id, preset }) => (
					<li key={id} className="flex items-center gap-2 rounded-md border border-line bg-chalk py-1 pr-1 pl-3">
						<span className="font-medium">{preset.name}</span>
						<span className="text-slate">{methodById(preset.method)?.label}</span>
						<button
							type="button"
							className="button button-quiet px-2!"
							aria-label={`Delete preset ${preset.name}`}
							onClick={() => submit({ intent: "forget", id }, { method: "post" })}
						>
							<Trash2 size={14} />
						</button>
					</li>
				))}
			</ul>
		</section>
	);
}

function Card({ shot, onAsk }: { shot: ShotCard; onAsk: (question: Question) => void }) {
	const submit = useSubmit();
	return (
		<li className="group relative overflow-hidden rounded-md border border-line bg-chalk focus-within:border-kelp hover:border-kelp">
			<Link to={`/shots/${shot.id}/${shot.take ? "run" : "shape"}`} className="block outline-none">
				{shot.picture ? (
					<img src={shot.picture} alt="" className="h-37.5 w-full object-cover" />
				) : (
					<div className="flex h-37.5 items-center justify-center bg-[#c9cdcb] text-[#3d464d]">no picture yet</div>
				)}
				<div className="px-3 py-2.5">
					<h2 className="truncate font-semibold">{shot.name}</h2>
					<p className="truncate text-slate">{shot.note || " "}</p>
					<p className="number mt-1 flex justify-between text-xs text-slate">
						<span>
							{shot.objects} object{shot.objects === 1 ? "" : "s"}
							{shot.take && ` · ${shot.take.frames}/${shot.take.of} frames`}
						</span>
						<time dateTime={shot.updatedAt} suppressHydrationWarning>
							{when(shot.updatedAt)}
						</time>
					</p>
				</div>
			</Link>
			<div className="absolute top-2 right-2 flex gap-1 opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
				<a
					className="button px-2!"
					title="Save as a file, with its takes"
					href={`/api/shots/${shot.id}/file?takes`}
					aria-label={`Save ${shot.name} as a file`}
				>
					<Download size={14} />
				</a>
				<button
					type="button"
					className="button px-2!"
					title="Duplicate"
					aria-label={`Duplicate ${shot.name}`}
					onClick={() => submit({ intent: "duplicate", id: shot.id }, { method: "post" })}
				>
					<Copy size={14} />
				</button>
				<button
					type="button"
					className="button px-2!"
					title="Delete"
					aria-label={`Delete ${shot.name}`}
					onClick={() =>
						onAsk({
							title: `Delete ${shot.name}?`,
							text: "The shot and its takes go to the trash, at the foot of the yard, for a month.",
							act: "Delete",
							onAct: () => submit({ intent: "delete", id: shot.id }, { method: "post" }),
						})
					}
				>
					<Trash2 size={14} />
				</button>
			</div>
		</li>
	);
}

const ACCEPT = ".obj,.stl,.ply,.glb,.gltf,.json,.zip";

function DropCard({ onFile }: { onFile: (file: File) => void }) {
	const [over, setOver] = useState(false);
	return (
		<li
			className={`flex min-h-56 flex-col items-center justify-center rounded-md border border-dashed text-center ${over ? "border-kelp bg-kelp-wash" : "border-slate/60"}`}
			onDragOver={(event) => {
				event.preventDefault();
				setOver(true);
			}}
			onDragLeave={() => setOver(false)}
			onDrop={(event) => {
				event.preventDefault();
				setOver(false);
				const file = event.dataTransfer.files[0];
				if (file) onFile(file);
			}}
		>
			<span className="font-semibold">Drop a mesh or a shot here</span>
			<span className="text-slate">OBJ · STL · PLY · GLB · shot file</span>
		</li>
	);
}
