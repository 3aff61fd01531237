// What the viewer asks of a plan before it draws: the version, and that every field is as the
// contract says. A plan that was made by another Ochre, or changed on the way, ends in words.
import type { Plan } from "./plan";
import { parts, VERSION, whole } from "./plan-fields";
import { checkFields } from "./rules";

export function checkPlan(plan: unknown): Plan {
  const { version } = (plan ?? {}) as { version?: unknown };
  if (version !== VERSION) {
    throw new Error(
      `This map was made for version ${String(version)} of the viewer, but the page holds ` +
        `version ${VERSION}. Publish the map again.`,
    );
  }
  checkFields(plan as Record<string, unknown>, whole, "the map", parts);
  return plan as Plan;
}
