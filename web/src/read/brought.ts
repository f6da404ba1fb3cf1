/** Frames that were brought in just now: marks are proposed for each once, without being asked for. */
export const brought = new Set<string>()
