/** Figures of a drawing as paths. */

/** All parts of a piece as one figure. */
export const areas = (parts: number[][][]) => parts.map((p) => `M${p.map((c) => c.join(" ")).join("L")}Z`).join("");
/** Lines from point to point. */
export const lines = (edges: number[][]) => edges.map(([a, b, c, d]) => `M${a} ${b}L${c} ${d}`).join("");
/** Corners of a polygon. */
export const points = (corners: number[][]) => corners.map((c) => c.join(",")).join(" ");
