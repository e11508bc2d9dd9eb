import { fileStem } from "@rubble/core/formats";
import { Film, ImageDown } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import { Picker, Segments } from "~/controls/Choice";
import { Hint } from "~/controls/Hint";
import { ProgressBar } from "~/controls/ProgressBar";
import { Fact, Section } from "~/controls/Section";
import { type Busy, useWorkbench } from "~/workbench/store/store";
import { type ClipKind, clipCodec, makeClip, makeStill } from "./clip";
import { download } from "./download";

const SIZES: readonly { readonly id: string; readonly label: string; readonly width: number; readonly height: number }[] = [
	{ id: "640", label: "640 × 360", width: 640, height: 360 },
	{ id: "1280", label: "1280 × 720", width: 1280, height: 720 },
	{ id: "1920", label: "1920 × 1080", width: 1920, height: 1080 },
	{ id: "3840", label: "3840 × 2160", width: 3840, height: 2160 },
];

/** The take as it will be seen: a clip at true speed through the view's camera, or one picture. */
export function ClipSection({ range }: { range: { readonly firstFrame: number; readonly lastFrame: number } }) {
	const { shot, take, camera, set } = useWorkbench();
	const [kind, setKind] = useState<ClipKind>("webm");
	const [sizeId, setSize] = useState("1280");
	const [burn, setBurn] = useState(true);
	const [busy, setBusy] = useState<Busy | null>(null);
	const [can, setCan] = useState<Readonly<Record<ClipKind, boolean>>>({ webm: true, mp4: true, png: true });
	const signal = useRef({ aborted: false });
	const size = SIZES.find(({ id }) => id === sizeId)!;
	useEffect(() => {
		let wanted = true;
		void Promise.all((["webm", "mp4"] as const).map((one) => clipCodec(one, size.width, size.height))).then(([webm, mp4]) => {
			if (!wanted) return;
			setCan({ webm: webm !== undefined, mp4: mp4 !== undefined, png: true });
			if (!webm) setKind(mp4 ? "mp4" : "png");
		});
		return () => {
			wanted = false;
		};
	}, [size]);
	const cameras = Object.entries(shot.objects).flatMap(([id, { name, source }]) => (source.kind === "camera" ? [{ id, label: name }] : []));
	const stem = fileStem(`${shot.name} ${take?.name ?? ""}`);
	const make = async () => {
		signal.current = { aborted: false };
		setBusy({ fraction: 0, what: "Getting ready" });
		try {
			const clip = await makeClip(
				{ kind, width: size.width, height: size.height, ...range, burn, stem },
				{
					signal: signal.current,
					onProgress: async (fraction, what) => {
						setBusy({ fraction, what });
						// The page must be able to draw this, and to take a click on Cancel.
						await new Promise((resolve) => setTimeout(resolve, 0));
					},
				},
			);
			download(clip, `${stem}.${kind === "png" ? "zip" : kind}`);
		} catch (error) {
			if ((error as Error).message !== "cancelled") toast.error((error as Error).message, { duration: 9000 });
		} finally {
			setBusy(null);
		}
	};
	const still = async () => {
		try {
			download(await makeStill(size.width, size.height), `${stem}.png`);
		} catch (error) {
			toast.error((error as Error).message);
		}
	};
	return (
		<Section title="Preview clip" aside={`${((range.lastFrame - range.firstFrame + 1) / shot.settings.fps).toFixed(2)} s`}>
			<Segments
				label="As"
				value={kind}
				options={[
					...(can.webm ? [{ id: "webm", label: "WebM", help: "A video that browsers and most players show" }] : []),
					...(can.mp4 ? [{ id: "mp4", label: "MP4", help: "A video for everything else" }] : []),
					{ id: "png", label: "Pictures", help: "A PNG for each frame, in one zip" },
				]}
				onChange={(id) => setKind(id as ClipKind)}
			/>
			<Picker label="Size" value={sizeId} options={SIZES} onChange={setSize} />
			<Picker
				label="Through"
				value={cameras.some(({ id }) => id === camera) ? camera : "view"}
				options={[{ id: "view", label: "The view as it is" }, ...cameras]}
				onChange={(id) => set({ camera: id === "view" ? "free" : id })}
			/>
			<Segments
				label="Written in"
				value={burn ? "yes" : "no"}
				options={[
					{ id: "yes", label: "Take, frame" },
					{ id: "no", label: "Nothing" },
				]}
				onChange={(id) => setBurn(id === "yes")}
			/>
			{busy ? (
				<>
					<ProgressBar label="Filming" fraction={busy.fraction} />
					<Fact label={busy.what} value={`${Math.round(busy.fraction * 100)} %`} />
					<button
						type="button"
						className="button"
						onClick={() => {
							signal.current.aborted = true;
						}}
					>
						Cancel
					</button>
				</>
			) : (
				<div className="grid grid-cols-2 gap-1.5">
					<button type="button" className="button" onClick={() => void make()}>
						<Film size={14} /> Make the clip
					</button>
					<Hint text="One picture in the best quality: with all shadows, and nooks darkened">
						<button type="button" className="button" onClick={() => void still()}>
							<ImageDown size={14} /> This frame
						</button>
					</Hint>
				</div>
			)}
		</Section>
	);
}
