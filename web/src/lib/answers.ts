import type { JobState, Question } from "../api/client";

export type Answers = Record<string, string>;

/** The answers that a job itself gives at one opening: those of all walls, of the wall it is on, and its own. */
export function ownAnswers(state: JobState, opening: string, wall: number): Answers {
  const o = state.job.openings?.find((x) => x.id === opening);
  return { ...state.job.wall.schools, ...state.job.wall.corners?.[wall - 1]?.schools, ...o?.schools };
}

/** The questions of the wall and of one opening, in the order in which they are decided. */
export function questionsOf(all: Question[], opening: string): Question[] {
  return all.filter((q) => q.openings.length === 0 || q.openings.includes(opening));
}

/** Questions in front, and those that are seldom answered otherwise than by their default and are not answered here. */
export function foldedOf(list: Question[]): { front: Question[]; folded: Question[] } {
  const folded = list.filter((q) => q.seldom && !q.own);
  return { front: list.filter((q) => !folded.includes(q)), folded };
}

/** Questions about the same part of the work together, in the order in which the first of each is decided. */
export function partsOf(list: Question[]): { about: Question["about"]; questions: Question[] }[] {
  const abouts = [...new Set(list.map((q) => q.about))];
  return abouts.map((about) => ({ about, questions: list.filter((q) => q.about === about) }));
}
