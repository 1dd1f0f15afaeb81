// Where a value belongs, from the short way of writing it that stands beside each field ("steps/S/adjustments/A/ev") to
// what the server takes: the same as core/recipes/settings.py:setting_at.
const HOMES = { steps: "step", regions: "shared", groups: "group" };

export function settingAt(path, value) {
  const [head, whose, next, ...rest] = path.split("/");
  if (whose === undefined) return { of: "recipe", field: head, value };
  if (next === "adjustments") return { of: "adjustment", step: whose, adjustment: rest[0], field: rest[1], value };
  if (next === "shared") return { of: "use", step: whose, field: rest[0], value };
  if (next === "region" || next === "limit") {
    const place = { home: HOMES[head], whose };
    if (rest[0] === "parts") return { of: "part", ...place, part: rest[1], field: rest[2], value };
    return { of: "region", ...place, field: rest[0], value };
  }
  if (head === "steps") return { of: "step", step: whose, field: next, value };
  if (head === "groups") return { of: "group", group: whose, field: next, value };
  return { of: "shared", region: whose, field: next, value };
}

export const settingsOf = (values) => Object.entries(values).map(([path, value]) => settingAt(path, value));

// Whether a value is one of a region, which then has to be drawn anew.
export const isOfRegion = (path) => /\/(region|limit|shared)\//.test(path);
