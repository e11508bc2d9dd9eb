import { Tooltip } from "radix-ui";

/** A one-line explanation on hover and focus. Without a text it is just its child. */
export function Hint({
	text,
	children,
	side = "left",
}: {
	text: string | undefined;
	children: React.ReactElement;
	side?: "left" | "top" | "bottom" | "right";
}) {
	if (!text) return children;
	return (
		<Tooltip.Root delayDuration={350}>
			<Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
			<Tooltip.Portal>
				<Tooltip.Content
					side={side}
					sideOffset={6}
					collisionPadding={8}
					className="z-50 max-w-64 rounded-md bg-ink px-2.5 py-1.5 text-xs text-chalk shadow-sm"
				>
					{text}
				</Tooltip.Content>
			</Tooltip.Portal>
		</Tooltip.Root>
	);
}
