import { Link } from "react-router";

/** The bar of a page beside the workbench: the mark leads home, then what the page is, and what can be done there. */
export function PageHeader({ children }: { children: React.ReactNode }) {
	return (
		<header className="flex h-13 items-center gap-3 border-b border-line bg-chalk px-4">
			<Link to="/" aria-label="To the yard">
				<img src="/mark.svg" alt="" width={24} height={24} />
			</Link>
			{children}
		</header>
	);
}
