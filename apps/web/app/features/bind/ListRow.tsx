import { Eye, EyeOff } from "lucide-react";

/** A bond set or a connector in its list; `about` says what its note is. */
export function ListRow({
	name,
	note,
	about,
	hidden,
	onPick,
	onHide,
}: {
	name: string;
	note: string;
	about?: string | undefined;
	hidden: boolean;
	onPick: () => void;
	onHide: () => void;
}) {
	return (
		<div className="flex items-center gap-2">
			<button type="button" className="link-action min-w-0 flex-1 truncate text-left" onClick={onPick}>
				{name}
			</button>
			<span className="number text-xs text-slate" title={about}>
				{note}
			</span>
			<button type="button" className="button px-2!" aria-label={hidden ? `Turn ${name} on` : `Turn ${name} off`} onClick={onHide}>
				{hidden ? <EyeOff size={14} /> : <Eye size={14} />}
			</button>
		</div>
	);
}
