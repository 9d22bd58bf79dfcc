/** The steps of a release, in the order of the work. */
export const STEPS = { label: "Label", check: "Check", files: "Files", over: "Hand over" } as const;

export type Step = keyof typeof STEPS;
