import type { BakeError, BakeOptions } from "@rubble/core/bake";
import { type ExportRange, fileStem, handedOver, isSequence, TAKE_FORMATS } from "@rubble/core/formats";
import { degrees, radians } from "@rubble/core/maths";
import { type Colouring, formatNumber } from "@rubble/core/shot";
import { proxy } from "comlink";
import { Download } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { toast } from "sonner";
import { Picker, Segments } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { ProgressBar } from "~/controls/ProgressBar";
import { Fact, Section } from "~/controls/Section";
import { frameFacts } from "~/workbench/store/selectors";
import { type Busy, useWorkbench } from "~/workbench/store/store";
import { coreWorker } from "~/workers/client";
import type { BakeForecast } from "~/workers/messages";
import { sendJson } from "~/workers/network";
import { ClipSection } from "./ClipSection";
import { download } from "./download";
import { KeysBakeSection } from "./KeysBakeSection";

interface Written {
	readonly name: string;
	readonly size: number;
	readonly error: BakeError;
	readonly frames: string;
}

export function BakeBench() {
	const state = useWorkbench();
	const { stored, stale, first } = frameFacts(state);
	const { shot, shotId, take } = state;
	const [way, setWay] = useState<BakeOptions["way"]>("reduced");
	const [every, setEvery] = useState(1);
	const [position, setPosition] = useState(0.002);
	const [rotation, setRotation] = useState(radians(0.5));
	const [format, setFormat] = useState("glb");
	const [framesPerJob, setFramesPerJob] = useState(0);
	const [from, setFrom] = useState<number | null>(null);
	const [to, setTo] = useState<number | null>(null);
	const [busy, setBusy] = useState<Busy | null>(null);
	const [written, setWritten] = useState<Written | null>(null);
	const options = useMemo<BakeOptions>(
		() => (way === "every" ? { way, frames: every } : { way, position, rotation }),
		[way, every, position, rotation],
	);
	const begin = take?.take.snapshot.settings.firstFrame ?? first;
	const range = useMemo(
		() => ({ firstFrame: Math.min(stored, Math.max(begin, from ?? begin)), lastFrame: Math.max(begin, Math.min(stored, to ?? stored)) }),
		[begin, stored, from, to],
	);
	const forecast = useForecast(format, range, options, shot.colouring, stored >= begin && !busy && !state.run);
	if (stored < begin)
		return <p className="p-3.5 text-slate">There is nothing to bake yet. Run the shot first; its frames then become keys.</p>;
	const chosen = TAKE_FORMATS.find(({ id }) => id === format)!;
	const bake = async () => {
		setBusy({ fraction: 0, what: "Getting ready" });
		try {
			const file = await coreWorker().bake(
				format,
				range,
				options,
				shot.colouring,
				// What is told of it may arrive after its end.
				proxy((fraction, what) => setBusy((now) => now && { fraction, what })),
			);
			const { extension, mime } = handedOver(chosen);
			const name = `${fileStem(shot.name)}.${extension}`;
			download(new Blob([file.bytes], { type: mime }), name);
			setWritten({ name, size: file.bytes.length, error: file.error, frames: `${file.firstFrame}–${file.lastFrame}` });
		} catch (error) {
			if ((error as Error).message !== "cancelled") toast.error((error as Error).message, { duration: 9000 });
		} finally {
			setBusy(null);
		}
	};
	const send = async () => {
		try {
			await sendJson(`/api/shots/${shotId}/send`, "POST", {
				what: "bake",
				take: take?.id,
				format,
				range,
				options,
				colouring: shot.colouring,
				...(framesPerJob > 0 && { framesPerJob }),
			});
			toast.success("Workers make it; Jobs has it when it is done.", {
				action: { label: "Jobs", onClick: () => window.open("/jobs", "_blank") },
			});
		} catch (error) {
			toast.error((error as Error).message);
		}
	};
	return (
		<>
			<Section title="Keys" aside={take?.name}>
				<NumberField label="From" whole least={begin} most={range.lastFrame} value={range.firstFrame} onChange={setFrom} />
				<NumberField label="To" whole least={range.firstFrame} most={stored} value={range.lastFrame} onChange={setTo} />
				<Segments
					label="Way"
					value={way}
					options={[
						{ id: "reduced", label: "Fewest", help: "Keys are left out while the motion stays within the tolerance" },
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
				<Picker label="Format" value={format} options={TAKE_FORMATS} onChange={setFormat} help={chosen.help} />
				<p className="text-slate">
					{chosen.help}.{isSequence(chosen) && " Handed over as one zip."}
				</p>
				{forecast && (
					<>
						<Fact label="Size, about" value={forecast.size === undefined ? "known once made" : sizeText(forecast.size)} />
						<Errors error={forecast.error} />
					</>
				)}
				{busy ? (
					<>
						<ProgressBar label="Writing" fraction={busy.fraction} />
						<Fact label={busy.what} value={`${Math.round(busy.fraction * 100)} %`} />
						<button type="button" className="button" onClick={() => void coreWorker().cancel("bake")}>
							Cancel
						</button>
					</>
				) : (
					<>
						<button
							type="button"
							className="button button-primary mt-1"
							disabled={chosen.workersOnly}
							title={chosen.workersOnly && "A page cannot make it: let a worker"}
							onClick={() => void bake()}
						>
							<Download size={14} /> Bake and download
						</button>
						<button type="button" className="button" onClick={() => void send()}>
							Let a worker make it
						</button>
						{isSequence(chosen) && (
							<NumberField
								label="Frames a worker"
								help="Several workers share the range: a zip from each, for one folder. 0: one makes them all"
								zero="all"
								whole
								least={0}
								most={100_000}
								value={framesPerJob}
								onChange={setFramesPerJob}
							/>
						)}
					</>
				)}
			</Section>
			<KeysBakeSection range={range} options={options} />
			<ClipSection range={range} />
			<Section title="Whole shot">
				<p className="text-slate">A zip that opens in the yard of another machine: set-up, meshes, pictures, and the frames of takes.</p>
				<div className="grid grid-cols-2 gap-1.5">
					<a className="button" href={`/api/shots/${shotId}/file`}>
						Without takes
					</a>
					<a className="button" href={`/api/shots/${shotId}/file?takes`}>
						With takes
					</a>
				</div>
			</Section>
			{written && (
				<Section title="Written" aside={written.name}>
					<Fact label="Size" value={sizeText(written.size)} />
					<Fact label="Frames" value={written.frames} />
					<Errors error={written.error} />
				</Section>
			)}
		</>
	);
}

function Errors({ error }: { error: BakeError }) {
	return (
		<>
			<Fact label="Keys" value={`${error.keys.toLocaleString("en")} of ${error.fullKeys.toLocaleString("en")}`} />
			<Fact label="Off by at most" value={`${formatNumber(error.position * 1000, 3)} mm, ${formatNumber(degrees(error.rotation), 3)}°`} />
		</>
	);
}

const sizeText = (bytes: number): string => (bytes > 1e6 ? `${formatNumber(bytes / 1e6, 3)} MB` : `${formatNumber(bytes / 1e3, 3)} kB`);

const FORECAST_PAUSE = 250; // ms

/** What the file will come to, found anew when what is asked for changes. */
function useForecast(
	format: string,
	range: ExportRange,
	options: BakeOptions,
	colouring: Colouring | undefined,
	ready: boolean,
): BakeForecast | undefined {
	const [forecast, setForecast] = useState<BakeForecast>();
	useEffect(() => {
		if (!ready) return;
		let wanted = true;
		const timer = setTimeout(() => {
			coreWorker()
				.forecast(format, range, options, colouring)
				.then((next) => wanted && setForecast(next))
				.catch(() => wanted && setForecast(undefined));
		}, FORECAST_PAUSE);
		return () => {
			wanted = false;
			clearTimeout(timer);
		};
	}, [format, range, options, colouring, ready]);
	return forecast;
}
