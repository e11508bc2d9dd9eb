/** A small square button with a picture over its name: what can be added. */
export function TileButton({
	label,
	title,
	icon,
	name,
	onClick,
}: {
	label: string;
	title: string;
	icon: React.ReactNode;
	/** For screen readers, where the label alone does not say what happens. */
	name?: string;
	onClick: () => void;
}) {
	return (
		<button type="button" className="button h-12! flex-col gap-0.5! px-1! text-xs" title={title} aria-label={name} onClick={onClick}>
			{icon}
			{label}
		</button>
	);
}
