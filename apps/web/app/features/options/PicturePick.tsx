import bricks from "@rubble/core/pictures/bricks.png?url";
import rubble from "@rubble/core/pictures/rubble.png?url";
import type { AssetRef } from "@rubble/core/shot";
import { ImagePlus } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { FileButton } from "~/controls/FileButton";
import { coreWorker } from "~/workers/client";

/** Made-up pictures that ship with the application. */
const SHIPPED = [
	{ url: bricks, label: "Bricks" },
	{ url: rubble, label: "Rubble" },
];

/** Picks a picture: one that ships with the application, or a file. */
export function PicturePick({ onPick }: { onPick: (picture: AssetRef) => void }) {
	const [busy, setBusy] = useState(false);
	const keep = async (bytes: Promise<ArrayBuffer>) => {
		setBusy(true);
		try {
			onPick(await coreWorker().keepPicture(new Uint8Array(await bytes)));
		} catch (error) {
			toast.error((error as Error).message);
		} finally {
			setBusy(false);
		}
	};
	return (
		<div className="flex gap-1.5">
			{SHIPPED.map(({ url, label }) => (
				<button
					key={url}
					type="button"
					className="button flex-1 px-1!"
					disabled={busy}
					onClick={() => void keep(fetch(url).then((answer) => answer.arrayBuffer()))}
				>
					<img src={url} alt="" className="h-4.5 w-6 rounded-xs object-cover" />
					{label}
				</button>
			))}
			<FileButton accept=".png,.jpg,.jpeg" className="flex-1 px-1!" onFile={(file) => void keep(file.arrayBuffer())}>
				<ImagePlus size={14} /> Open
			</FileButton>
		</div>
	);
}
