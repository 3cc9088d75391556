import type { Edit, Fix } from "../api/client";

/** The change that does what a finding proposes. */
export function editOf(fix: Fix): Edit {
  switch (fix.do) {
    case "move":
      return { edit: "move_step", step: fix.step, before: fix.before };
    case "restore":
      return { edit: "restore_step", step: fix.step };
    case "put-right":
      return { edit: "set_as_built", deviation: fix.deviation, so: false };
    case "figure":
      return { edit: "set_figure", id: fix.id };
  }
}

/** The step to look at afterwards, where it is about one. */
export const stepOf = (fix: Fix): string | null => (fix.do === "move" || fix.do === "restore" ? fix.step : null);
