/** A button that opens a file of the given kinds; the same file may be chosen again. */
export function FileButton({
	accept,
	onFile,
	className = "",
	children,
}: {
	/** `.obj,.stl` */
	accept: string;
	onFile: (file: File) => void;
	className?: string;
	children: React.ReactNode;
}) {
	return (
		<label className={`button cursor-pointer focus-within:outline-2 focus-within:outline-kelp ${className}`}>
			{children}
			<input
				type="file"
				accept={accept}
				className="sr-only"
				onChange={(event) => {
					const file = event.target.files?.[0];
					if (file) onFile(file);
					event.target.value = "";
				}}
			/>
		</label>
	);
}
