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
import { pedal } from "./pedal.js";
import "./sound.js";
import "./typed.js";

Alpine.data("bench", bench);
Alpine.data("count", count);
Alpine.data("drop", drop);
Alpine.data("lesson", lesson);
Alpine.data("metronome", metronome);
Alpine.data("midi", midi);
Alpine.data("pedal", pedal);
Alpine.data("waiting", waiting);
Alpine.data("paper", () => ({ print: () => window.print() }));
// Pages of counting open without a network, once they were opened here.
const { who } = document.body.dataset;
if (who && navigator.serviceWorker) {
  const first = !navigator.serviceWorker.controller;
  navigator.serviceWorker.register("/sw.js").then(() => {
    if (first && document.querySelector("[data-offline]")) return caches.open(`pages ${who}`).then((kept) => kept.add(location.href));
  }).catch(() => {}); // then they do not
}
if (document.getElementById("sign-in")) {
  globalThis.caches?.keys().then((names) => names.filter((name) => name.startsWith("pages t")).forEach((name) => caches.delete(name)));
}

// Days are told by the clock of the teacher; until they choose one, by that of the browser.
document.cookie = `zone=${Intl.DateTimeFormat().resolvedOptions().timeZone}; path=/; samesite=lax`;
Alpine.start();
