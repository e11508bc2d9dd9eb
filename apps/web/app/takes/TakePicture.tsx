import { useEffect, useId, useRef, useState } from "react";
import type { TakeScene } from "~/workers/messages";
import { makeTakeView, type Sight, type TakeView } from "./takeView";

interface Props {
	readonly scene: TakeScene;
	/** Another take, drawn over it as outlines. */
	readonly over: TakeScene | undefined;
	readonly overColour: string;
	readonly frame: number;
	readonly sight: Sight | null;
	readonly onSight: (sight: Sight) => void;
	readonly wide: boolean;
	/** Whether the sight that has everything in it is this one's. */
	readonly leads: boolean;
}

/** A take at a frame; turning one picture turns all. */
export function TakePicture({ scene, over, overColour, frame, sight, onSight, wide, leads }: Props) {
	const filter = `edges-${useId().replace(/\W/g, "")}`;
	return (
		<div className={`relative bg-[#c9cdcb] ${wide ? "h-110" : "h-60"}`}>
			<Layer scene={scene} frame={frame} sight={sight} onSight={onSight} leads={leads} />
			{over && (
				<>
					<svg className="absolute size-0" aria-hidden>
						<filter id={filter} colorInterpolationFilters="sRGB">
							{/* Where neighbouring pixels differ there is an edge: a Laplacian, its brightness taken for opacity. */}
							<feConvolveMatrix order="3" kernelMatrix="-1 -1 -1 -1 8 -1 -1 -1 -1" preserveAlpha="false" result="edges" />
							<feColorMatrix in="edges" type="matrix" values="0 0 0 0 0  0 0 0 0 0  0 0 0 0 0  1.2 1.2 1.2 1 -0.25" result="mask" />
							<feFlood style={{ floodColor: overColour }} />
							<feComposite operator="in" in2="mask" />
						</filter>
					</svg>
					<div className="pointer-events-none absolute inset-0" style={{ filter: `url(#${filter})` }}>
						<Layer scene={over} frame={frame} sight={sight} onSight={onSight} leads={false} ghost />
					</div>
				</>
			)}
		</div>
	);
}

function Layer({
	scene,
	frame,
	sight,
	onSight,
	leads,
	ghost = false,
}: Pick<Props, "scene" | "frame" | "sight" | "onSight" | "leads"> & { readonly ghost?: boolean }) {
	const canvas = useRef<HTMLCanvasElement>(null);
	const [view, setView] = useState<TakeView>();
	const tell = useRef(onSight);
	tell.current = onSight;
	useEffect(() => {
		const made = makeTakeView(canvas.current!, scene, (next) => tell.current(next), ghost);
		const observer = new ResizeObserver(([entry]) => made.resize(entry!.contentRect.width, entry!.contentRect.height));
		observer.observe(canvas.current!.parentElement!);
		setView(made);
		return () => {
			observer.disconnect();
			setView(undefined);
			made.dispose();
		};
	}, [scene, ghost]);
	useEffect(() => view?.show(frame), [view, frame]);
	useEffect(() => {
		if (!view) return;
		if (sight) view.look(sight);
		else if (leads) tell.current(view.whole());
	}, [view, sight, leads]);
	return <canvas ref={canvas} className="absolute inset-0 size-full touch-none" aria-label={`Picture of ${scene.name}`} />;
}
