import type { StonesOptions } from "@rubble/core/fracture";
import { type AssetRef, formatNumber, type Id, type OptionValue } from "@rubble/core/shot";
import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import { PicturePick } from "~/features/options/PicturePick";
import { useWorkbench } from "~/workbench/store/store";
import { coreWorker } from "~/workers/client";
import type { JointsPreview } from "~/workers/messages";

/** The picture that a wall is broken by, with the joints that would be found in it. */
export function PictureOption({
	fracture,
	value,
	onChange,
}: {
	fracture: Id;
	value: OptionValue | undefined;
	onChange: (value: OptionValue) => void;
}) {
	const options = useWorkbench((state) => state.shot.fractures[fracture]?.options);
	const [preview, setPreview] = useState<JointsPreview>();
	const canvas = useRef<HTMLCanvasElement>(null);
	const { joints, threshold, smallest, calm } = (options ?? {}) as unknown as StonesOptions;
	useEffect(() => {
		if (typeof value !== "string") return setPreview(undefined);
		let current = true;
		coreWorker()
			.findJoints(value as AssetRef, { joints, threshold, smallest, calm })
			.then((found) => current && setPreview(found))
			.catch((error: Error) => toast.error(error.message));
		return () => {
			current = false;
		};
	}, [value, joints, threshold, smallest, calm]);
	useEffect(() => {
		if (!preview || !canvas.current) return;
		canvas.current.width = preview.width;
		canvas.current.height = preview.height;
		canvas.current.getContext("2d")!.putImageData(new ImageData(preview.rgba, preview.width, preview.height), 0, 0);
	}, [preview]);
	return (
		<div className="flex flex-col gap-1.5">
			<PicturePick onPick={onChange} />
			{preview && (
				<figure>
					<canvas ref={canvas} className="w-full rounded-md border border-line" aria-label="The picture, with its joints tinted" />
					<figcaption className="number mt-1 flex justify-between text-xs text-slate">
						<span>{preview.stones.toLocaleString("en")} stones</span>
						<span>threshold {formatNumber(preview.threshold, 2)}</span>
					</figcaption>
				</figure>
			)}
		</div>
	);
}
