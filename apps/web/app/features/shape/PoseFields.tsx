import type { Pose } from "@rubble/core/animation";
import { fromEuler, radians } from "@rubble/core/maths";
import { VectorsField } from "~/controls/VectorField";
import { toEulerDegrees } from "./euler";

interface PoseFieldsProps {
	/** Of each thing that is picked. */
	readonly poses: readonly Pose[];
	/** What the place is of, and from where it counts. */
	readonly of: string;
	readonly from: string;
	readonly onPut: (put: (former: Pose) => Partial<Pose>) => void;
}

/** Place and turn as numbers. */
export function PoseFields({ poses, of, from, onPut }: PoseFieldsProps) {
	return (
		<>
			<VectorsField
				label="Position"
				unit="m"
				help={`Of its ${of}, from ${from}`}
				values={poses.map(({ translation }) => translation)}
				onPut={(put) => onPut(({ translation }) => ({ translation: put(translation) }))}
			/>
			<VectorsField
				label="Turn"
				unit="°"
				help="About x, the upright, and z"
				values={poses.map(({ rotation }) => toEulerDegrees(rotation))}
				onPut={(put) =>
					onPut(({ rotation }) => {
						const [x, y, z] = put(toEulerDegrees(rotation));
						return { rotation: fromEuler([radians(x), radians(y), radians(z)]) };
					})
				}
			/>
		</>
	);
}
