import { rmSync } from "node:fs";
import { Service } from "./service";

/** Makes the worlds before all tests, and removes them afterwards. */
export default function makeWorlds(): () => void {
  const worlds = Service.makeWorlds(60, 120, 200);
  process.env.KETTLEFOG_WORLDS = worlds;
  return () => rmSync(worlds, { recursive: true });
}
