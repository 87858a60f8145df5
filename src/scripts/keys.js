// Keys: a link, a button or a field names those that press it, in data-keys; ↑ and ↓ go along the rows.
import { inTurn, press, underWay } from "./parts.js";

document.addEventListener("keydown", (event) => {
  const { key, target: at } = event;
  if (event.metaKey || event.ctrlKey || event.altKey || document.querySelector("dialog[open]")) return;
  if (at.matches("input:not([type=radio]), select, textarea, summary")) {
    if (key === "Escape") at.blur(); // back to the keys
    return;
  }
  if (at.matches("input[type=radio]") && key !== "?") return;
  if (key === "Enter" && at.matches("button, a:not([aria-current])")) return;
  const find = () => document.querySelector(`[data-keys~="${CSS.escape(key)}"]`)
    ?? { ArrowUp: () => row(-1), ArrowDown: () => row(1) }[key]?.();
  const there = find();
  if (!there && !(underWay && key.startsWith("Arrow"))) return;
  event.preventDefault();
  if (there?.matches("[data-at-once]")) return press(there); // what is counted waits for no answer
  inTurn(() => pressOrEnter(find()), there?.matches("[data-look]"));
});

function row(step) {
  const rows = [...document.querySelectorAll("[data-row]")];
  return rows[rows.findIndex((there) => there.matches("[aria-current]")) + step];
}

function pressOrEnter(there) {
  if (!there?.matches("input, select")) return press(there);
  there.focus();
  there.select?.();
}
