import type { Progress } from "@rubble/core/common";
import { Cancelled } from "@rubble/core/common";
import { type NamedFile, zipFiles } from "@rubble/core/formats";
import {
	BufferTarget,
	CanvasSource,
	canEncodeVideo,
	Mp4OutputFormat,
	Output,
	QUALITY_HIGH,
	type VideoCodec,
	WebMOutputFormat,
} from "mediabunny";
import { useWorkbench } from "~/workbench/store/store";
import { captureView } from "~/workbench/view/eye";

export type ClipKind = "webm" | "mp4" | "png";

export interface ClipWish {
	readonly kind: ClipKind;
	readonly width: number;
	readonly height: number;
	readonly firstFrame: number;
	readonly lastFrame: number;
	/** Whether frame number and take name are written into the picture. */
	readonly burn: boolean;
	/** File name without its end. */
	readonly stem: string;
}

const CODECS: Readonly<Record<"webm" | "mp4", readonly VideoCodec[]>> = { webm: ["vp9", "vp8", "av1"], mp4: ["avc", "hevc", "av1", "vp9"] };

/** What this browser can write at this size. */
export async function clipCodec(kind: ClipKind, width: number, height: number): Promise<VideoCodec | undefined> {
	if (kind === "png" || typeof VideoEncoder === "undefined") return undefined;
	for (const codec of CODECS[kind]) if (await canEncodeVideo(codec, { width, height, bitrate: QUALITY_HIGH })) return codec;
	return undefined;
}

/** The take through the view's camera, frame by frame at true speed: a video, or numbered pictures in a zip. */
export async function makeClip(wish: ClipWish, progress: Progress): Promise<Blob> {
	const canvas = document.createElement("canvas");
	canvas.width = wish.width;
	canvas.height = wish.height;
	const before = useWorkbench.getState();
	const { fps } = before.shot.settings;
	const count = wish.lastFrame - wish.firstFrame + 1;
	useWorkbench.setState({ playing: false });
	const draw = async (n: number) => {
		if (progress.signal?.aborted) throw new Cancelled();
		const frame = wish.firstFrame + n;
		// The view follows the store at once.
		useWorkbench.setState({ frame });
		captureView(canvas);
		if (wish.burn) burnIn(canvas, before.take?.name ?? before.shot.name, frame, frame - wish.firstFrame, fps);
		await progress.onProgress?.((n + 1) / count, `Frame ${frame}`);
	};
	try {
		if (wish.kind === "png") {
			const files: NamedFile[] = [];
			const digits = Math.max(4, String(wish.lastFrame).length);
			for (let n = 0; n < count; n++) {
				await draw(n);
				files.push({ name: `${wish.stem}_${String(wish.firstFrame + n).padStart(digits, "0")}.png`, bytes: await pngOf(canvas) });
			}
			return new Blob([(await zipFiles(files, count)) as Uint8Array<ArrayBuffer>], { type: "application/zip" });
		}
		const codec = await clipCodec(wish.kind, wish.width, wish.height);
		if (!codec) throw new Error(`This browser cannot write ${wish.kind === "mp4" ? "MP4" : "WebM"}. Take the pictures instead.`);
		const target = new BufferTarget();
		const output = new Output({ format: wish.kind === "mp4" ? new Mp4OutputFormat() : new WebMOutputFormat(), target });
		const source = new CanvasSource(canvas, { codec, bitrate: QUALITY_HIGH });
		output.addVideoTrack(source, { frameRate: fps });
		await output.start();
		for (let n = 0; n < count; n++) {
			await draw(n);
			await source.add(n / fps, 1 / fps);
		}
		await output.finalize();
		return new Blob([target.buffer!], { type: wish.kind === "mp4" ? "video/mp4" : "video/webm" });
	} finally {
		useWorkbench.setState({ frame: before.frame });
	}
}

/** The view as it stands in the best quality, as a PNG. */
export async function makeStill(width: number, height: number): Promise<Blob> {
	const canvas = document.createElement("canvas");
	canvas.width = width;
	canvas.height = height;
	captureView(canvas, true);
	return new Blob([(await pngOf(canvas)) as Uint8Array<ArrayBuffer>], { type: "image/png" });
}

const pngOf = (canvas: HTMLCanvasElement): Promise<Uint8Array> =>
	new Promise((resolve, reject) =>
		canvas.toBlob((blob) => {
			if (blob) blob.arrayBuffer().then((buffer) => resolve(new Uint8Array(buffer)), reject);
			else reject(new Error("The browser could not make a picture of this size."));
		}, "image/png"),
	);

function burnIn(canvas: HTMLCanvasElement, name: string, frame: number, passed: number, fps: number): void {
	const pen = canvas.getContext("2d")!;
	const size = Math.max(11, Math.round(canvas.height / 36));
	const text = `${name}   ${frame}   ${(passed / fps).toFixed(2)} s`;
	pen.font = `${size}px "Atkinson Hyperlegible Mono Variable", monospace`;
	pen.textBaseline = "middle";
	const width = pen.measureText(text).width;
	const [x, y] = [size, canvas.height - 2.2 * size];
	pen.fillStyle = "rgb(246 245 241 / 0.8)";
	pen.fillRect(x - 0.5 * size, y - 0.9 * size, width + size, 1.8 * size);
	pen.fillStyle = "#1f2a30";
	pen.fillText(text, x, y);
}
