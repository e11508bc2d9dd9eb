import type { Pose } from "@rubble/core/animation";
import { keyedInside, keyedPose } from "@rubble/core/bodies";
import { tickOfFrame } from "@rubble/core/shot";
import { Section } from "~/controls/Section";
import { poseNow } from "~/workbench/store/correcting";
import { nameOf } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";
import { PoseFields } from "../shape/PoseFields";

/** Where a piece or a copy is that follows keys of its own: by its keys, or by the correction that is being edited. */
export function MotionSection({ id }: { id: string }) {
	const state = useWorkbench();
	const { shot, frame, perform } = state;
	const tick = tickOfFrame(shot.settings, frame);
	const pose = keyedPose(shot, id, tick);
	const place = (put: (former: Pose) => Partial<Pose>) => {
		const change = put(pose);
		const { translation, rotation } = keyedInside(shot, id, { ...pose, ...change }, tick);
		perform(poseNow(state, id, tick, change.translation ? { translation } : { rotation }));
	};
	return (
		<Section title={nameOf(state, id)} aside={`keyed: frame ${frame}`}>
			<PoseFields poses={[pose]} of="middle" from="the world's middle" onPut={place} />
		</Section>
	);
}
