import { useEffect } from "react";
import { useWorkbench } from "../store/store";

/** Moves the frame while playing: true to time (frames are skipped where drawing is slow), or every frame as fast as it can. */
export function usePlayback(): void {
	const playing = useWorkbench((state) => state.playing);
	useEffect(() => {
		if (!playing) return;
		const { frame: startFrame } = useWorkbench.getState();
		const begun = performance.now();
		let request = requestAnimationFrame(function tick(now) {
			const state = useWorkbench.getState();
			const { firstFrame, lastFrame, fps } = state.shot.settings;
			const count = lastFrame - firstFrame + 1;
			const next = state.everyFrame ? state.frame + 1 : startFrame + Math.max(0, Math.floor(((now - begun) / 1000) * fps));
			if (next > lastFrame && !state.loop) {
				useWorkbench.setState({ frame: lastFrame, playing: false });
				return;
			}
			const frame = firstFrame + ((next - firstFrame) % count);
			if (frame !== state.frame) useWorkbench.setState({ frame });
			request = requestAnimationFrame(tick);
		});
		return () => cancelAnimationFrame(request);
	}, [playing]);
}
