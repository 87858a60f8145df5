// Of a long score only the lines near the window are in the document; the room of the others is kept.
import { say } from "./parts.js";

const NEAR = "100% 0px"; // a window more above and below
const AT_ONCE = 11; // lines that one answer brings

// Fetch lines of the score as they come near, put them away as they go; gives back how to end it.
export function inWindow(lines, address, filled) {
  if (lines.every((line) => line.childElementCount)) return () => {};
  const away = new Map(); // lines that were in the document before
  let wanted = [];

  function put(line, content) {
    if (line.childElementCount) return;
    line.replaceChildren(...content);
    filled(line);
  }

  function come(line) {
    if (line.childElementCount || wanted.includes(line)) return;
    if (away.has(line)) put(line, away.get(line));
    else wanted.push(line);
  }

  function go(line) {
    wanted = wanted.filter((one) => one !== line);
    if (!line.childElementCount || line.querySelector(".slot.selected")) return;
    away.set(line, [...line.childNodes]);
    line.replaceChildren();
  }

  async function ask(some) {
    const numbers = some.map((line) => Number(line.dataset.line));
    try {
      const answer = await fetch(`${address}&first=${Math.min(...numbers)}&last=${Math.max(...numbers)}`);
      if (!answer.ok) throw new Error(answer.statusText);
      const fresh = document.createElement("template");
      fresh.innerHTML = await answer.text();
      for (const one of fresh.content.querySelectorAll("[data-line]")) put(lines[one.dataset.line], one.childNodes);
    } catch {
      if (lines[0].isConnected) say();
    }
  }

  function askAll() {
    const order = wanted.sort((one, other) => one.dataset.line - other.dataset.line);
    wanted = [];
    while (order.length) {
      const far = order.findIndex((line) => line.dataset.line - order[0].dataset.line >= AT_ONCE);
      ask(order.splice(0, far < 0 ? order.length : far));
    }
  }

  const score = lines[0].parentElement;
  const root = getComputedStyle(score).overflowY === "auto" ? score : null;
  const watch = new IntersectionObserver((entries) => {
    for (const { target, isIntersecting } of entries) (isIntersecting ? come : go)(target);
    askAll();
  }, { root, rootMargin: NEAR });
  for (const line of lines) watch.observe(line);
  return () => watch.disconnect();
}
