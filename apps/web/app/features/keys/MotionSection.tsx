import type { Pose } from "@rubble/core/animation";
import { keyedInside, keyedPose } from "@rubble/core/bodies";
import { fromEuler, radians } from "@rubble/core/maths";
import { tickOfFrame } from "@rubble/core/shot";
import { Section } from "~/controls/Section";
import { VectorField } from "~/controls/VectorField";
import { poseNow } from "~/workbench/store/correcting";
import { useWorkbench } from "~/workbench/store/store";
import { toEulerDegrees } from "../shape/euler";

/** Where a piece or a copy is that follows keys of its own: by its keys, or by the correction that is being edited. */
export function MotionSection({ id }: { id: string }) {
	const state = useWorkbench();
	const { shot, frame, bodies, perform } = state;
	const tick = tickOfFrame(shot.settings, frame);
	const pose = keyedPose(shot, id, tick);
	const place = (change: Partial<Pose>) => {
		const { translation, rotation } = keyedInside(shot, id, { ...pose, ...change }, tick);
		perform(poseNow(state, id, tick, change.translation ? { translation } : { rotation }));
	};
	return (
		<Section title={bodies.find((body) => body.id === id)?.path ?? "Piece"} aside={`keyed: frame ${frame}`}>
			<VectorField
				label="Position"
				unit="m"
				help="Of its middle, from the world's"
				value={pose.translation}
				onChange={(translation) => place({ translation })}
			/>
			<VectorField
				label="Turn"
				unit="°"
				help="About x, the upright, and z"
				value={toEulerDegrees(pose.rotation)}
				onChange={(turn) => place({ rotation: fromEuler([radians(turn[0]), radians(turn[1]), radians(turn[2])]) })}
			/>
		</Section>
	);
}
