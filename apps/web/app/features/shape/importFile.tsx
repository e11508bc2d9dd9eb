import { UNITS, type Unit } from "@rubble/core/formats";
import { addObject, formatNumber, plainName, together } from "@rubble/core/shot";
import { Dialog } from "radix-ui";
import { useEffect, useState } from "react";
import { toast } from "sonner";
import { create } from "zustand";
import { Segments } from "~/controls/Choice";
import { Fact } from "~/controls/Section";
import { newId } from "~/workbench/ids";
import { useWorkbench } from "~/workbench/store/store";
import { coreWorker } from "~/workers/client";
import type { ReadFile } from "~/workers/messages";

/** The file of which unit and axis are to be settled, and those that come after it. */
const useImport = create<{ file: ReadFile | null; reading: boolean; waiting: readonly File[] }>(() => ({
	file: null,
	reading: false,
	waiting: [],
}));

export const MESH_ACCEPT = ".obj,.stl,.ply,.glb,.gltf";

export function chooseMeshFile(): void {
	const input = document.createElement("input");
	input.type = "file";
	input.accept = MESH_ACCEPT;
	input.multiple = true;
	input.onchange = () => {
		importFiles([...(input.files ?? [])]);
	};
	input.click();
}

/** Opens mesh files one after the other. */
export function importFiles(files: readonly File[]): void {
	useImport.setState(({ waiting }) => ({ waiting: [...waiting, ...files] }));
	void next();
}

/** Reads the next file in the worker, then asks for unit and axis. What is wrong with it is said in a sentence. */
async function next(): Promise<void> {
	const { file: open, reading, waiting } = useImport.getState();
	const [file, ...later] = waiting;
	if (open || reading || !file) return;
	useImport.setState({ reading: true, waiting: later });
	const note = toast.loading(`Reading ${file.name} …`);
	try {
		const read = await coreWorker().readFile(file.name, new Uint8Array(await file.arrayBuffer()));
		useImport.setState({ file: read });
	} catch (error) {
		toast.error((error as Error).message, { duration: 9000 });
	} finally {
		toast.dismiss(note);
		useImport.setState({ reading: false });
	}
	void next();
}

const REMEMBERED = "rubble.import";

function remembered(): { unit: Unit; up: "y" | "z" } {
	try {
		return { unit: "m", up: "y", ...JSON.parse(localStorage.getItem(REMEMBERED) ?? "{}") };
	} catch {
		return { unit: "m", up: "y" };
	}
}

export function ImportDialog() {
	const file = useImport((state) => state.file);
	const [choices, setChoices] = useState(remembered);
	const [busy, setBusy] = useState(false);
	useEffect(() => {
		if (file) setChoices(file.metres ? { unit: "m", up: "y" } : remembered());
	}, [file]);
	if (!file) return null;
	const close = () => {
		useImport.setState({ file: null });
		void next();
	};
	const box = [0, 1, 2].map((k) => Math.max(...file.parts.map((part) => part.size[k]!)) * UNITS[choices.unit]);
	const size = choices.up === "z" ? [box[0]!, box[2]!, box[1]!] : box;
	const largest = Math.max(...size);
	const add = async () => {
		setBusy(true);
		try {
			const { perform, select } = useWorkbench.getState();
			const parts = await coreWorker().placeFile(choices);
			const made = parts.map(({ name, asset }) => ({
				id: newId(),
				name,
				source: { kind: "mesh" as const, asset, file: plainName(file.name, 300), repairs: [] },
			}));
			perform(together(`Open ${file.name}`, made.map(addObject)));
			select(made.map(({ id }) => id));
			if (!file.metres) localStorage.setItem(REMEMBERED, JSON.stringify(choices));
			for (const note of file.notes) toast(note);
			close();
		} catch (error) {
			toast.error((error as Error).message, { duration: 9000 });
		} finally {
			setBusy(false);
		}
	};
	return (
		<Dialog.Root open onOpenChange={(open) => !open && close()}>
			<Dialog.Portal>
				<Dialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
				<Dialog.Content className="fixed top-1/2 left-1/2 z-50 w-100 -translate-x-1/2 -translate-y-1/2 rounded-md border border-line bg-chalk p-5">
					<Dialog.Title className="text-base font-semibold">How large is {file.name}?</Dialog.Title>
					<Dialog.Description className="mt-1 text-slate">
						{file.metres ? "The file says metres, height up." : "The file does not say its unit or which way is up."}
					</Dialog.Description>
					<div className="mt-4 flex flex-col gap-2">
						<Segments
							label="One unit is"
							value={choices.unit}
							options={Object.keys(UNITS).map((unit) => ({ id: unit, label: unit }))}
							onChange={(unit) => setChoices({ ...choices, unit: unit as Unit })}
						/>
						<Segments
							label="Up is"
							value={choices.up}
							options={[
								{ id: "y", label: "its y axis" },
								{ id: "z", label: "its z axis" },
							]}
							onChange={(up) => setChoices({ ...choices, up: up as "y" | "z" })}
						/>
						<div className="mt-2 flex flex-col gap-1">
							<Fact
								label="Width × height × depth"
								value={`${size.map((s) => formatNumber(s, 3)).join(" × ")} m`}
								{...((largest > 200 || largest < 0.01) && { tone: "warning" as const })}
							/>
							<Fact label="Triangles" value={file.parts.reduce((sum, part) => sum + part.triangles, 0).toLocaleString("en")} />
							{file.parts.length > 1 && <Fact label="Objects" value={file.parts.length} />}
						</div>
						{(largest > 200 || largest < 0.01) && (
							<p className="text-ochre">
								That is {largest > 200 ? "very large" : "tiny"} for a thing that falls and breaks. Is the unit right?
							</p>
						)}
					</div>
					<div className="mt-5 flex justify-end gap-2">
						<Dialog.Close className="button">Cancel</Dialog.Close>
						<button type="button" className="button button-primary" disabled={busy} onClick={() => void add()}>
							Add to the shot
						</button>
					</div>
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}
