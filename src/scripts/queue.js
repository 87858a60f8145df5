// What is pressed is kept in this browser until the server has said that this very press is kept. Nothing else
// clears it: a press that is refused stays until somebody has seen why.
import { openDB } from "idb";

const AGAIN_MS = 5000;
const AT_ONCE = 200;
const PRESSES = "presses";
const opened = openDB("fair-reach", 1, {
  upgrade(db) {
    db.createObjectStore(PRESSES, { keyPath: "n", autoIncrement: true }).createIndex("who", "who");
  },
});

// Where a page is not served safely the browser has neither keys of its own nor locks.
const random = () => [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, "0")).join("");
export const newKey = () => crypto.randomUUID?.() ?? random();
const inTurn = (act) => (navigator.locks ? navigator.locks.request("fair-reach presses", act) : act());

// The moment by the clock that hangs here, with its zone.
export function localMoment(now = new Date()) {
  const ahead = -now.getTimezoneOffset();
  const two = (number) => String(Math.floor(Math.abs(number))).padStart(2, "0");
  const local = new Date(now.getTime() + 60_000 * ahead).toISOString().slice(0, -1);
  return `${local}${ahead < 0 ? "-" : "+"}${two(ahead / 60)}:${two(ahead % 60)}`;
}

const heard = new Set();
const changed = new BroadcastChannel("fair-reach presses");
changed.onmessage = () => tell();
export const onChange = (act) => { heard.add(act); return () => heard.delete(act); };
async function tell(here = false) {
  if (here) changed.postMessage("");
  for (const act of heard) act();
}

// Whose presses this page sends, and where to; a page on which nobody is known sends none.
const me = () => document.body.dataset.who ?? "";
const called = () => document.querySelector("[data-called]")?.dataset.called ?? "";
const address = () => document.body.dataset.presses;

async function rows(who) {
  const db = await opened;
  return who ? db.getAllFromIndex(PRESSES, "who", who) : db.getAll(PRESSES);
}

// What waits, and what was refused, of the one at work here; of everybody where nobody is known.
export async function state() {
  const all = await rows(me());
  const waits = all.filter((row) => !row.refused);
  const taken = new Set(waits.filter((row) => row.back).map((row) => row.key));
  return {
    waiting: waits.filter((row) => !row.back && !taken.has(row.key)),
    undone: taken.size,
    refused: all.filter((row) => row.refused),
    stuck,
  };
}

export async function add(press) {
  const db = await opened;
  await db.add(PRESSES, { who: me(), called: called(), ...press });
  tell(true);
  send();
}

// The last press of what is drawn: out of the queue if it never went, else by its key, wherever it is by now.
export async function takeBack(drawn, lastKept) {
  const db = await opened;
  const change = db.transaction(PRESSES, "readwrite");
  const mine = (await change.store.index("who").getAll(me())).filter((row) => !row.refused);
  const taken = new Set(mine.filter((row) => row.back).map((row) => row.key));
  const last = mine.findLast((row) => !row.back && row.drawn === drawn && !taken.has(row.key));
  if (last && !last.tried) await change.store.delete(last.n);
  else if (last) await change.store.add({ who: me(), back: true, key: last.key, drawn });
  else if (lastKept && !taken.has(lastKept)) await change.store.add({ who: me(), back: true, key: lastKept, drawn });
  await change.done;
  tell(true);
  send();
}

export async function forgetRefused() {
  const db = await opened;
  for (const row of await rows(me())) if (row.refused) await db.delete(PRESSES, row.n);
  tell(true);
}

let stuck = ""; // why nothing goes out, where somebody has to do something: "sign-in"
let wanted = false;
let sending = false;

// One page at a time sends, in the order of the presses; a press that comes meanwhile goes with the next lot.
export async function send() {
  if (!address() || !me()) return;
  wanted = true;
  if (sending) return;
  sending = true;
  try {
    while (wanted) {
      wanted = false;
      await inTurn(some);
    }
  } catch {
    tell(); // no answer: all is kept, and sent again
  } finally {
    sending = false;
  }
}

async function some() {
  const db = await opened;
  const change = db.transaction(PRESSES, "readwrite");
  const all = (await change.store.index("who").getAll(me())).filter((row) => !row.refused).slice(0, AT_ONCE);
  for (const row of all) if (!row.tried) await change.store.put({ ...row, tried: true });
  await change.done;
  if (!all.length) return;
  const body = {
    who: me(),
    sent: localMoment(),
    presses: all.filter((row) => !row.back).map(({ key, drawn, result, cracked_to, made, bpm }) => ({ key, drawn, result, cracked_to, made, bpm })),
    back: all.filter((row) => row.back).map(({ key, drawn }) => ({ key, drawn })),
  };
  const answer = await fetch(address(), {
    method: "POST",
    redirect: "manual", // to the sign-in page: that is no answer
    headers: { "Content-Type": "application/json", "X-CSRFToken": token() },
    body: JSON.stringify(body),
  });
  stuck = answer.type === "opaqueredirect" || answer.status === 403 ? "sign-in" : answer.status === 404 ? "closed" : "";
  if (!answer.ok || !answer.headers.get("Content-Type")?.includes("json")) throw new Error(String(answer.status));
  const said = await answer.json();
  const became = new Map(said.answers.map((one) => [one.key, one]));
  for (const row of all) {
    const its = became.get(row.key);
    if (row.back || its?.became.startsWith("kept")) await db.delete(PRESSES, row.n);
    else if (its) await db.put(PRESSES, { ...row, tried: true, refused: its.why });
  }
  wanted ||= all.length === AT_ONCE;
  tell(true);
  document.dispatchEvent(new CustomEvent("presses-sent", { detail: said }));
}

// As it stands now, in the cookie: a page that was open while somebody signed in again has an old one.
const token = () => document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? document.querySelector("[name=csrfmiddlewaretoken]")?.value ?? "";

addEventListener("online", send);
setInterval(send, AGAIN_MS);
addEventListener("DOMContentLoaded", send);
