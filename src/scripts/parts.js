// Parts of a page come by htmx. One change at a time: what is pressed while an answer is under way
// waits for it, then acts on what has come by then. A mere look is overtaken by the next.
const BEGIN = {}; // htmx takes hold of the page just after this script: until then everything waits
export let underWay = BEGIN;
const waiting = [];
const looksOnly = (ctx) => ctx.target?.id === "inspector";

export function inTurn(action, look = false) {
  if (!underWay || (look && looksOnly(underWay) && !waiting.length)) action();
  else if (waiting.length < 20) waiting.push(action);
}

function next() {
  while (!underWay && waiting.length) waiting.shift()();
}

setTimeout(() => {
  if (underWay !== BEGIN) return;
  underWay = null;
  next();
});

export function press(there) {
  if (there && !there.disabled) there.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true }));
}

document.addEventListener("click", (event) => {
  const there = event.target.closest("[hx-boost], [hx-get], [data-look], form[hx-boost] button");
  if (!underWay || !there || event.metaKey || event.ctrlKey || event.shiftKey) return;
  const look = there.matches("[data-look]");
  if (there.matches("form") || (look && looksOnly(underWay) && !waiting.length)) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  inTurn(() => press(there.id ? document.getElementById(there.id) : there.isConnected && there));
}, true);

const NO_ANSWER = "No answer. Check that Fair Reach is running, then try again.";
export const say = (text = NO_ANSWER) => { document.getElementById("no-answer").textContent = text; };
const on = (name, act) => document.addEventListener(name, (event) => act(event.detail, event));

on("htmx:before:request", ({ ctx }) => { underWay = ctx; });
on("htmx:before:response", ({ ctx }, event) => {
  const { raw } = ctx.response;
  if ((raw.ok || [409, 422].includes(raw.status)) && !raw.url.includes("/sign-in/")) return;
  event.preventDefault();
  window.location.reload();
});
on("htmx:after:swap", ({ ctx }) => {
  say("");
  if (ctx.sourceElement.matches("form") && ctx.response.status < 400) ctx.sourceElement.reset();
});
on("htmx:error", () => {
  waiting.length = 0;
  say();
});
on("htmx:finally:request", ({ ctx }) => {
  if (underWay !== ctx) return; // overtaken
  underWay = null;
  queueMicrotask(next); // before any other press can come between
});
