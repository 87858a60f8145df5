// What is typed is not lost on the way: a form that meets the sign-in page comes back filled after it, and a
// field that says so keeps what stands in it until it is sent, wherever one looks meanwhile.
const SENT = "form on its way";
const MET = "met the sign-in page";
const KEPT = "typed: ";
const here = () => location.pathname + location.search;
const NEVER = new Set(["password", "file"]);

const worth = (field) => field.name && field.name !== "csrfmiddlewaretoken" && !NEVER.has(field.type);

document.addEventListener("submit", ({ target: form, submitter }) => {
  if (form.method !== "post" || form.querySelector("[type=password]")) return;
  for (const field of form.querySelectorAll("[data-keep]")) sessionStorage.removeItem(KEPT + field.dataset.keep);
  const typed = [...form.elements].filter((field) => worth(field) && !["hidden", "submit", "button"].includes(field.type));
  if (!typed.length || submitter?.name === "back") return;
  const fields = typed.map(({ name, type, value, checked }) => ({ name, type, value, checked }));
  sessionStorage.setItem(SENT, JSON.stringify({ page: here(), who: document.body.dataset.who, action: form.getAttribute("action"), fields }));
}, true);

function filled({ action, fields }) {
  const form = [...document.forms].find((one) => one.method === "post" && one.getAttribute("action") === action
    && fields.every(({ name }) => one.elements[name]));
  if (!form) return;
  for (const { name, type, value, checked } of fields) {
    const field = [...form.elements].find((one) => one.name === name && (!["radio", "checkbox"].includes(type) || one.value === value));
    if (!field) continue;
    if (["radio", "checkbox"].includes(type)) field.checked = checked;
    else field.value = value;
    field.closest("details")?.setAttribute("open", "");
  }
  document.getElementById("no-answer").textContent = "What you had typed stands here again: send it once more.";
  form.scrollIntoView({ block: "center" });
}

const keep = (field) => {
  const at = KEPT + field.dataset.keep;
  if (field.value) sessionStorage.setItem(at, field.value);
  else sessionStorage.removeItem(at);
};
document.addEventListener("input", ({ target }) => { if (target.dataset.keep) keep(target); });

// A part that is put in place leaves a field as it stands, though it may be that of another note by now.
function restore() {
  for (const field of document.querySelectorAll("[data-keep]")) {
    field.value = sessionStorage.getItem(KEPT + field.dataset.keep) ?? field.defaultValue;
  }
}
document.addEventListener("htmx:after:swap", restore);

addEventListener("DOMContentLoaded", () => {
  restore();
  if (document.getElementById("sign-in")) return sessionStorage.setItem(MET, "yes");
  const sent = sessionStorage.getItem(SENT);
  const met = sessionStorage.getItem(MET);
  sessionStorage.removeItem(MET);
  if (!met) return sessionStorage.removeItem(SENT);
  if (!sent) return;
  const { page, who, ...form } = JSON.parse(sent);
  if (who !== document.body.dataset.who) return sessionStorage.removeItem(SENT); // another's
  if (page !== here()) return;
  sessionStorage.removeItem(SENT);
  filled(form);
});
