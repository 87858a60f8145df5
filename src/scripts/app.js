// The one script of every page, built into src/static/js: htmx fetches parts of a page, Alpine holds what the
// browser alone knows.
import Alpine from "@alpinejs/csp";
import "htmx.org";
import { bench } from "./bench.js";
import { count, waiting } from "./count.js";
import { drop } from "./drop.js";
import "./keys.js";
import { lesson } from "./lesson.js";
import { metronome } from "./metronome.js";
import { midi } from "./midi.js";
import { newer } from "./offline.js";
import { pedal } from "./pedal.js";
import "./sound.js";
import "./typed.js";

Alpine.data("bench", bench);
Alpine.data("count", count);
Alpine.data("drop", drop);
Alpine.data("lesson", lesson);
Alpine.data("metronome", metronome);
Alpine.data("midi", midi);
Alpine.data("newer", newer);
Alpine.data("pedal", pedal);
Alpine.data("waiting", waiting);
Alpine.data("paper", () => ({ print: () => window.print() }));
// Days are told by the clock of the teacher; until they choose one, by that of the browser.
document.cookie = `zone=${Intl.DateTimeFormat().resolvedOptions().timeZone}; path=/; samesite=lax`;
Alpine.start();
