import { Check, ChevronDown } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { Link } from "react-router";
import { TakeMarks } from "~/features/run/TakeMarks";
import { showTake } from "./store/session";
import { useWorkbench } from "./store/store";

const ENTRY = "flex cursor-default items-center gap-2 rounded px-2 py-1.5 outline-none data-[highlighted]:bg-kelp-wash";

/** The take on show, from any stage. */
export function TakePick() {
	const { shotId, takes, take, run: running } = useWorkbench();
	if (!take || takes.length === 0) return null;
	return (
		<DropdownMenu.Root>
			<DropdownMenu.Trigger
				className="button button-quiet max-w-32 gap-1! px-2!"
				aria-label={`Take on show: ${take.name}`}
				title={take.name}
				disabled={running !== null}
			>
				<span className="truncate">{take.name}</span>
				<ChevronDown size={14} className="shrink-0 text-slate" />
			</DropdownMenu.Trigger>
			<DropdownMenu.Portal>
				<DropdownMenu.Content
					sideOffset={4}
					align="end"
					className="z-50 max-h-96 max-w-80 min-w-44 overflow-y-auto rounded-md border border-line bg-field p-1"
					onCloseAutoFocus={(event) => event.preventDefault()}
				>
					{takes.map(({ id, name, note, picked, locked }) => (
						<DropdownMenu.Item
							key={id}
							className={ENTRY}
							disabled={id === take.id}
							title={note || undefined}
							onSelect={() => void showTake(id)}
						>
							<Check size={14} className={`shrink-0 text-kelp ${id === take.id ? "" : "invisible"}`} />
							<span className={`truncate ${id === take.id ? "font-semibold" : ""}`}>{name}</span>
							<TakeMarks take={{ picked, locked }} />
						</DropdownMenu.Item>
					))}
					<DropdownMenu.Separator className="my-1 h-px bg-line" />
					<DropdownMenu.Item asChild className={ENTRY}>
						<Link to={`/shots/${shotId}/takes`}>
							<span className="w-3.5" />
							Compare takes
						</Link>
					</DropdownMenu.Item>
				</DropdownMenu.Content>
			</DropdownMenu.Portal>
		</DropdownMenu.Root>
	);
}
