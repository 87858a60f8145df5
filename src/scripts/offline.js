// Pages of counting open without a network, once they were opened here; the worker that does it is told apart from the
// one that comes after it, which waits until somebody wants it.
const { who } = document.body.dataset;
const asked = who && navigator.serviceWorker ? begin() : Promise.resolve(null);

async function begin() {
  const first = !navigator.serviceWorker.controller;
  try {
    const registration = await navigator.serviceWorker.register("/sw.js");
    if (first && document.querySelector("[data-offline]")) await (await caches.open(`pages ${who}`)).add(location.href);
    return registration;
  } catch {
    return null; // then they do not
  }
}

if (document.getElementById("sign-in")) {
  globalThis.caches?.keys().then((names) => names.filter((name) => name.startsWith("pages t")).forEach((name) => caches.delete(name)));
}

export const newer = () => ({
  waits: false,

  async init() {
    const registration = await asked;
    if (!registration) return;
    const look = () => { this.waits = Boolean(registration.waiting && navigator.serviceWorker.controller); };
    registration.addEventListener("updatefound", () => registration.installing.addEventListener("statechange", look));
    look();
  },

  // What is pressed and typed is kept: the page may come anew.
  async take() {
    navigator.serviceWorker.addEventListener("controllerchange", () => location.reload(), { once: true });
    (await asked).waiting.postMessage("take over");
  },
});
