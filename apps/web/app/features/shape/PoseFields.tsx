import type { Pose } from "@rubble/core/animation";
import { fromEuler, radians } from "@rubble/core/maths";
import { VectorField } from "~/controls/VectorField";
import { toEulerDegrees } from "./euler";

/** Place and turn as numbers. `of`: what the place is of. */
export function PoseFields({ pose, of, onChange }: { pose: Pose; of: string; onChange: (change: Partial<Pose>) => void }) {
	return (
		<>
			<VectorField
				label="Position"
				unit="m"
				help={`Of its ${of}, from the world's middle`}
				value={pose.translation}
				onChange={(translation) => onChange({ translation })}
			/>
			<VectorField
				label="Turn"
				unit="°"
				help="About x, the upright, and z"
				value={toEulerDegrees(pose.rotation)}
				onChange={(turn) => onChange({ rotation: fromEuler([radians(turn[0]), radians(turn[1]), radians(turn[2])]) })}
			/>
		</>
	);
}
