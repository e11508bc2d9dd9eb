import { bringIn } from "@rubble/core/bodies";
import { parseShot } from "@rubble/core/shot";
import { FolderInput } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { toast } from "sonner";
import { newId } from "~/workbench/ids";
import { useWorkbench } from "~/workbench/store/store";
import { fetchBytes } from "~/workers/network";

interface Listed {
	readonly id: string;
	readonly name: string;
}

const read = async (url: string): Promise<unknown> => JSON.parse(new TextDecoder().decode(await fetchBytes(url)));

/** Another shot of the yard comes into this one, with a world of its own. */
export function BringIn() {
	const shotId = useWorkbench((state) => state.shotId);
	const [shots, setShots] = useState<readonly Listed[]>([]);
	const list = async (open: boolean) => {
		if (!open) return;
		try {
			setShots(((await read("/api/shots")) as readonly Listed[]).filter(({ id }) => id !== shotId));
		} catch (error) {
			toast.error(`The yard cannot be read: ${(error as Error).message}`);
		}
	};
	return (
		<DropdownMenu.Root onOpenChange={(open) => void list(open)}>
			<DropdownMenu.Trigger className="button" title="All of its objects come in a group, in a world of their own">
				<FolderInput size={14} /> Bring in a shot
			</DropdownMenu.Trigger>
			<DropdownMenu.Portal>
				<DropdownMenu.Content sideOffset={4} className="z-50 max-h-72 min-w-48 overflow-auto rounded-md border border-line bg-field p-1">
					{shots.length === 0 && <p className="px-2.5 py-1 text-slate">No other shot in the yard.</p>}
					{shots.map(({ id, name }) => (
						<DropdownMenu.Item
							key={id}
							className="cursor-default rounded px-2.5 py-1 outline-none data-[highlighted]:bg-kelp-wash"
							onSelect={() => void bring(id)}
						>
							{name}
						</DropdownMenu.Item>
					))}
				</DropdownMenu.Content>
			</DropdownMenu.Portal>
		</DropdownMenu.Root>
	);
}

async function bring(id: string): Promise<void> {
	try {
		const other = parseShot(await read(`/api/shots/${id}`));
		if (!other.ok) throw new Error(other.problems[0]!.message);
		useWorkbench.getState().perform(bringIn(other.value, newId));
		toast.success(`${other.value.name} is here, in a world of its own.`);
	} catch (error) {
		toast.error(`It could not be brought in: ${(error as Error).message}`);
	}
}
