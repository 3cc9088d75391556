import { describe, expect, it } from "vitest";
import { firm } from "../firm";
import { onsite } from "../onsite";
import { practice } from "../practice";
import { shell } from "../shell";
import { truck } from "../truck";
import { wall } from "../wall";
import { es } from ".";

type Words = { [key: string]: unknown };
const english: Words = { ...firm, ...shell, ...wall, ...onsite, ...truck, ...practice };

/** Every text of a tree with the way to it. What is made from values is asked with some that make sentences of it. */
function texts(tree: Words, path = ""): [string, unknown][] {
  return Object.entries(tree).flatMap(([key, value]): [string, unknown][] => {
    const here = `${path}.${key}`;
    return typeof value === "object" && value !== null ? texts(value as Words, here) : [[here, value]];
  });
}

describe("Spanish", () => {
  const of = new Map(texts(es as unknown as Words));

  it("has what English has, and nothing is left empty", () => {
    for (const [path, text] of texts(english)) {
      const other = of.get(path);
      expect(typeof other, path).toBe(typeof text);
      if (typeof text === "string") expect(other === "", path).toBe(text === "");
    }
  });

  it("has words of its own, but for marks, units and what is called alike", () => {
    const said = texts(english).filter((t): t is [string, string] => typeof t[1] === "string" && t[1].length > 4);
    const alike = said.filter(([path, text]) => of.get(path) === text).map(([, text]) => text);
    expect(
      alike.filter((text) => !["Panel", "Material", "Prepare", "fl oz", "Alt ↑ ↓", "+ − 0"].includes(text)),
    ).toEqual([]);
  });

  it("counts one and many", () => {
    expect(es.jobs.openings(1)).toBe("1 lugar que proteger");
    expect(es.jobs.openings(3)).toBe("3 lugares que proteger");
    expect(es.cut.rolls(2, "panel", "4'", "8'")).toBe("2 paneles 4' × 8'");
    expect(es.cut.rolls(1, "roll", '4"', "75'")).toBe("1 rollo 4\" × 75'");
    expect(es.site.more(1)).toBe("Falta 1 lectura.");
    expect(es.verdict.glue(2)).toBe("depende de pegamento en 2 lugares, como se hace");
  });
});
