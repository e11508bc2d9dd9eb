/** The stages of the work, in order. Numbers are their keys. */
export const STAGES = [
	{ id: "shape", number: 1, label: "Shape", question: "What is there?" },
	{ id: "break", number: 2, label: "Break", question: "Where does it come apart?" },
	{ id: "weigh", number: 3, label: "Weigh", question: "What does each thing weigh, how does it touch?" },
	{ id: "bind", number: 4, label: "Bind", question: "What holds on to what, and how strongly?" },
	{ id: "push", number: 5, label: "Push", question: "What drives it?" },
	{ id: "run", number: 6, label: "Run", question: "What happens? Is it right?" },
	{ id: "bake", number: 7, label: "Bake", question: "Who gets it?" },
] as const;

export type StageId = (typeof STAGES)[number]["id"];

export const isStage = (id: string): id is StageId => STAGES.some((stage) => stage.id === id);
