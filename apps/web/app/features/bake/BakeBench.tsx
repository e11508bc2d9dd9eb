import type { BakeError, BakeOptions } from "@rubble/core/bake";
import { TAKE_FORMATS } from "@rubble/core/formats";
import { degrees, radians } from "@rubble/core/maths";
import { formatNumber } from "@rubble/core/shot";
import { Download } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { Picker, Segments } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { Fact, Section } from "~/controls/Section";
import { frameFacts } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";
import { coreWorker } from "~/workers/client";

interface Written {
	readonly name: string;
	readonly size: number;
	readonly error: BakeError;
	readonly frames: string;
}

export function BakeBench() {
	const state = useWorkbench();
	const { stored, stale, first } = frameFacts(state);
	const [way, setWay] = useState<BakeOptions["way"]>("reduced");
	const [every, setEvery] = useState(1);
	const [position, setPosition] = useState(0.002);
	const [rotation, setRotation] = useState(radians(0.5));
	const [format, setFormat] = useState("glb");
	const [busy, setBusy] = useState(false);
	const [written, setWritten] = useState<Written | null>(null);
	if (stored < first)
		return <p className="p-3.5 text-slate">There is nothing to bake yet. Run the shot first; its frames then become keys.</p>;
	const bake = async () => {
		setBusy(true);
		try {
			const options: BakeOptions = way === "every" ? { way, frames: every } : { way, position, rotation };
			const file = await coreWorker().bake(format, options);
			const { extension, mime } = TAKE_FORMATS.find(({ id }) => id === format)!;
			const name = `${state.shot.name.replace(/[^\p{L}\p{N}]+/gu, "-").toLowerCase() || "shot"}.${extension}`;
			download(new Blob([file.bytes], { type: mime }), name);
			setWritten({ name, size: file.bytes.length, error: file.error, frames: `${file.firstFrame}–${file.lastFrame}` });
		} catch (error) {
			toast.error((error as Error).message, { duration: 9000 });
		} finally {
			setBusy(false);
		}
	};
	return (
		<>
			<Section title="Keys" aside={`frames ${first}–${stored}`}>
				<Segments
					label="Way"
					value={way}
					options={[
						{ id: "reduced", label: "As few as fit", help: "Keys are left out while the motion stays within the tolerance" },
						{ id: "every", label: "Every Nth", help: "A key at every Nth frame" },
					]}
					onChange={(next) => setWay(next as BakeOptions["way"])}
				/>
				{way === "every" ? (
					<NumberField
						label="Every"
						unit={every === 1 ? "frame" : "frames"}
						whole
						least={1}
						most={1000}
						value={every}
						onChange={setEvery}
					/>
				) : (
					<>
						<NumberField label="Places within" unit="mm" factor={1000} least={0.00001} most={10} value={position} onChange={setPosition} />
						<NumberField
							label="Turns within"
							unit="°"
							factor={degrees(1)}
							least={0.00001}
							most={1}
							value={rotation}
							onChange={setRotation}
						/>
					</>
				)}
				{stale <= stored && <p className="text-ochre">The take is out of date from frame {stale}. It will be written as it ran.</p>}
			</Section>
			<Section title="File">
				<Picker
					label="Format"
					value={format}
					options={TAKE_FORMATS}
					onChange={setFormat}
					help={TAKE_FORMATS.find(({ id }) => id === format)!.help}
				/>
				<p className="text-slate">{TAKE_FORMATS.find(({ id }) => id === format)!.help}.</p>
				<button type="button" className="button button-primary mt-1" disabled={busy} onClick={() => void bake()}>
					<Download size={14} /> {busy ? "Writing …" : "Bake and download"}
				</button>
			</Section>
			{written && (
				<Section title="Written" aside={written.name}>
					<Fact
						label="Size"
						value={written.size > 1e6 ? `${formatNumber(written.size / 1e6, 3)} MB` : `${formatNumber(written.size / 1e3, 3)} kB`}
					/>
					<Fact label="Frames" value={written.frames} />
					<Fact label="Keys" value={`${written.error.keys.toLocaleString("en")} of ${written.error.fullKeys.toLocaleString("en")}`} />
					<Fact
						label="Off by at most"
						value={`${formatNumber(written.error.position * 1000, 3)} mm, ${formatNumber(degrees(written.error.rotation), 3)}°`}
					/>
				</Section>
			)}
		</>
	);
}

export function download(blob: Blob, name: string): void {
	const url = URL.createObjectURL(blob);
	const link = document.createElement("a");
	link.href = url;
	link.download = name;
	link.click();
	setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
