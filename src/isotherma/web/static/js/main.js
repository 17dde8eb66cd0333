/* What scripts add to pages that work without them, one behaviour a module. */
import "./saving.js";
import "./parts.js";
import "./keys.js";
import "./frame.js";
import "./asking.js";
import "./route.js";
import "./levels.js";
import "./stand.js";
import "./found.js";
import "./finds.js";
import "./log.js";
import "./importing.js";
import "./live.js";
import { startScrub } from "./scrub.js";

startScrub();
