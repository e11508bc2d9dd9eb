import { Check, ChevronDown } from "lucide-react";
import { Select, ToggleGroup } from "radix-ui";
import { useId } from "react";
import { Hint } from "./Hint";
import { Labelled } from "./Labelled";
import { pageNonce } from "./nonce";

interface Option {
	readonly id: string;
	readonly label: string;
	readonly help?: string;
	readonly icon?: React.ReactNode;
}
interface ChoiceProps {
	readonly label: string;
	/** Empty where a selection is mixed. */
	readonly value: string;
	readonly options: readonly Option[];
	readonly onChange: (id: string) => void;
	readonly help?: string | undefined;
}

/** Two to four options side by side. `compact`: only the control; the label is for screen readers. */
export function Segments({ label, value, options, onChange, help, compact = false }: ChoiceProps & { readonly compact?: boolean }) {
	const control = (
		<ToggleGroup.Root
			type="single"
			value={value}
			onValueChange={(id) => id && onChange(id)}
			aria-label={label}
			className="flex overflow-hidden rounded-md border border-line bg-field"
		>
			{options.map((option) => (
				<Hint key={option.id} text={option.help} side="bottom">
					<ToggleGroup.Item
						value={option.id}
						className="flex h-7.5 flex-1 items-center justify-center gap-1.5 px-1.5 text-ink not-first:border-l not-first:border-line aria-checked:bg-kelp-wash aria-checked:font-semibold aria-checked:text-kelp"
					>
						{option.icon}
						{option.label}
					</ToggleGroup.Item>
				</Hint>
			))}
		</ToggleGroup.Root>
	);
	return compact ? (
		control
	) : (
		<Labelled label={label} help={help}>
			{control}
		</Labelled>
	);
}

/** Many options in a list. */
export function Picker({ label, value, options, onChange, help }: ChoiceProps) {
	const id = useId();
	return (
		<Labelled label={label} help={help} htmlFor={id}>
			<Dropdown id={id} label={label} value={value} options={options} onChange={onChange} />
		</Labelled>
	);
}

/** The same without its label beside it. */
export function Dropdown({ id, label, value, options, onChange }: Omit<ChoiceProps, "help"> & { readonly id?: string }) {
	return (
		<Select.Root value={value} onValueChange={onChange}>
			<Select.Trigger
				id={id}
				className="field justify-between font-sans!"
				aria-label={label}
				// While it is closed, letters are keys of the workbench, not names of entries.
				onKeyDown={(event) => event.key.length === 1 && event.key !== " " && event.preventDefault()}
			>
				<Select.Value placeholder="mixed" />
				<ChevronDown size={14} className="shrink-0 text-slate" />
			</Select.Trigger>
			<Select.Portal>
				<Select.Content
					position="popper"
					sideOffset={4}
					className="z-50 max-h-80 min-w-(--radix-select-trigger-width) overflow-auto rounded-md border border-line bg-field p-1 shadow-sm"
				>
					<Select.Viewport nonce={pageNonce}>
						{options.map((option) => (
							<Select.Item
								key={option.id}
								value={option.id}
								className="flex cursor-default items-center gap-2 rounded px-2 py-1.5 outline-none data-[highlighted]:bg-kelp-wash"
							>
								<span className="w-3.5 shrink-0">
									<Select.ItemIndicator>
										<Check size={14} />
									</Select.ItemIndicator>
								</span>
								<Select.ItemText>{option.label}</Select.ItemText>
							</Select.Item>
						))}
					</Select.Viewport>
				</Select.Content>
			</Select.Portal>
		</Select.Root>
	);
}
