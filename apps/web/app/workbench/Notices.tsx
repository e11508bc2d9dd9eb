import { useState } from "react";
import { bringBack, lookNoMore } from "./store/looking";
import { discardLeft, makeLeftAgain } from "./store/recovery";
import { giveUpUnsaved, goOnWithoutRefused } from "./store/session";
import { useWorkbench } from "./store/store";

/** What is to be known of saving before anything else, and the ways out. */
export function Notices() {
	const { save, left, looking } = useWorkbench();
	return (
		<>
			{looking && (
				<Notice
					text={`This is the shot as it was after “${looking.name}” (revision ${looking.revision}, ${time(looking.at)}). Nothing can be changed here.`}
				>
					<button type="button" className="button" onClick={lookNoMore}>
						Back to now
					</button>
					<button type="button" className="button button-primary" onClick={bringBack}>
						Bring it back
					</button>
				</Notice>
			)}
			{left && (
				<Notice
					alarming
					text={`${left.edits.length === 1 ? "An edit" : `${left.edits.length} edits`} of an earlier visit could not be saved, and the shot has been changed since.`}
					names={left.edits.map(({ name }) => name)}
				>
					<button type="button" className="button" onClick={discardLeft}>
						Discard
					</button>
					<button type="button" className="button button-primary" onClick={makeLeftAgain}>
						Make again
					</button>
				</Notice>
			)}
			{save.kind === "conflict" && (
				<Notice
					alarming
					text="This shot was changed in another window. Nothing was overwritten; your edits since then are not saved."
					names={save.edits}
				>
					<KeepMine />
					<button
						type="button"
						className="button button-primary"
						onClick={() => {
							giveUpUnsaved();
							window.location.reload();
						}}
					>
						Load theirs
					</button>
				</Notice>
			)}
			{save.kind === "refused" && (
				<Notice alarming text={`“${save.name}” can never be saved. ${save.message} What comes after it waits.`}>
					<KeepMine />
					<button type="button" className="button button-primary" onClick={() => void goOnWithoutRefused()}>
						Take it back
					</button>
				</Notice>
			)}
		</>
	);
}

const time = (at: string): string => new Date(at).toLocaleTimeString("en", { hour: "2-digit", minute: "2-digit", hour12: false });

interface NoticeProps {
	readonly text: string;
	readonly alarming?: boolean;
	/** Of edits that are meant. */
	readonly names?: readonly string[];
	readonly children: React.ReactNode;
}

const MOST_NAMES = 4;

function Notice({ text, alarming = false, names = [], children }: NoticeProps) {
	const [all, setAll] = useState(false);
	const shown = all ? names : names.slice(0, MOST_NAMES);
	return (
		<div role="alert" className="flex items-center gap-3 border-b border-line bg-chalk px-4 py-2">
			<p className="max-h-24 flex-1 overflow-auto">
				<span className={alarming ? "text-rust" : ""}>{text}</span>
				{names.length > 0 && <span className="text-slate"> {shown.join(" · ")}</span>}
				{names.length > shown.length && (
					<button type="button" className="ml-2 underline" onClick={() => setAll(true)}>
						and {names.length - shown.length} more
					</button>
				)}
			</p>
			{children}
		</div>
	);
}

function KeepMine() {
	const shot = useWorkbench((state) => state.shot);
	return (
		<form method="post" action="/?index" encType="application/x-www-form-urlencoded">
			<input type="hidden" name="intent" value="keep" />
			<input type="hidden" name="document" value={JSON.stringify({ ...shot, name: `${shot.name} (mine)` })} />
			<button type="submit" className="button">
				Keep mine as a new shot
			</button>
		</form>
	);
}
