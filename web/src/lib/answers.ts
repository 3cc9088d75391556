import type { JobState, Question } from "../api/client";

export type Answers = Record<string, string>;

/** The answers that a job itself gives at one opening, the wall's among them. */
export function ownAnswers(state: JobState, opening: string): Answers {
  const o = state.job.openings?.find((x) => x.id === opening);
  return { ...state.job.wall.schools, ...o?.schools };
}

/** The questions of the wall and of one opening, in the order in which they are decided. */
export function questionsOf(all: Question[], opening: string): Question[] {
  return all.filter((q) => q.opening === "" || q.opening === opening);
}
