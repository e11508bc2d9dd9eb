import { Hint } from "./Hint";

/** A row of the bench: what it is on the left, the control on the right. */
export function Labelled({
	label,
	help,
	htmlFor,
	top = false,
	children,
}: {
	label: string;
	help?: string | undefined;
	/** The control's id, where it is one that a label can name. */
	htmlFor?: string;
	/** The control is high: the label stands at its top. */
	top?: boolean;
	children: React.ReactNode;
}) {
	const text = `text-slate ${top ? "pt-1.5" : ""}`;
	return (
		<div className={`grid grid-cols-[106px_1fr] gap-x-2 ${top ? "items-start" : "items-center"}`}>
			<Hint text={help}>
				{htmlFor === undefined ? (
					<span className={text}>{label}</span>
				) : (
					<label htmlFor={htmlFor} className={text}>
						{label}
					</label>
				)}
			</Hint>
			{children}
		</div>
	);
}
