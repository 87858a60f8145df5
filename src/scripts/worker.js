// Pages of counting open without a network once they were opened here with one. FILES and VERSION stand before this,
// as the server has them: styles, scripts and fonts of one version, kept together.
const STATIC = `static ${VERSION}`;
const WHO = "X-Fair-Reach-Who";
const UNTIL = "X-Fair-Reach-Until";

addEventListener("install", (event) => event.waitUntil(caches.open(STATIC).then((kept) => kept.addAll(FILES))));

// A newer worker waits while pages of the one before are open, until it is told to go on.
addEventListener("message", ({ data }) => { if (data === "take over") skipWaiting(); });

addEventListener("activate", (event) => event.waitUntil((async () => {
  for (const name of await caches.keys()) if (name.startsWith("static ") && name !== STATIC) await caches.delete(name);
  await clients.claim();
})()));

addEventListener("fetch", (event) => {
  const { request } = event;
  const { pathname, origin } = new URL(request.url);
  if (request.method !== "GET" || origin !== location.origin) return;
  if (request.mode === "navigate") event.respondWith(page(request));
  else if (FILES.includes(pathname)) event.respondWith(file(request));
});

const file = async (request) => (await caches.match(request, { ignoreVary: true })) ?? fetch(request);

// The page as the server has it. One that says whose it is, is kept for that one; one that is there no more is let go.
async function page(request) {
  let answer;
  try {
    answer = await fetch(request);
  } catch (error) {
    const kept = await before(request);
    if (kept) return kept;
    throw error;
  }
  const who = answer.headers.get(WHO);
  if (who && answer.ok && !answer.redirected) await (await caches.open(`pages ${who}`)).put(request.url, answer.clone());
  else if ([403, 404, 410].includes(answer.status)) await forget(request);
  return answer;
}

async function before(request) {
  const kept = await caches.match(request.url, { ignoreVary: true });
  const until = kept?.headers.get(UNTIL);
  if (!until || Date.now() < Date.parse(until)) return kept;
  await forget(request);
  return null;
}

async function forget(request) {
  for (const name of await caches.keys()) if (name.startsWith("pages ")) await (await caches.open(name)).delete(request.url);
}
