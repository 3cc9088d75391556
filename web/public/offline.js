// Answers where nobody else does: the program from what was kept of it, jobs and cards as they were when there was a signal. What is sent waits in the
// page itself and never goes through here.
const PROGRAM = "kame-program-1";
const DATA = "kame-data-1";
const MOST = 400;
/** Answers of these addresses are kept; the search says which place, but for the job itself, of which one answer is enough. */
const KEPT = /^\/api\/(jobs\/\d+(\/(checks|pictures|stands|nights|walk|expected))?|practice\/(sheet|progress))$/;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (e) => e.waitUntil(self.clients.claim()));

function named(url) {
  const at = new URL(url, self.location.origin);
  return /^\/api\/jobs\/\d+$/.test(at.pathname) || at.pathname.endsWith("/stands") ? at.origin + at.pathname : at.href;
}

async function keep(url, answer) {
  const cache = await caches.open(DATA);
  await cache.put(named(url), answer);
  const all = await cache.keys();
  for (const old of all.slice(0, Math.max(0, all.length - MOST))) await cache.delete(old);
}

self.addEventListener("message", (e) => {
  const { job, program, data, language } = e.data;
  const work = async () => {
    const shell = await caches.open(PROGRAM);
    for (const url of program) {
      if (url === "/" || !(await shell.match(url))) await shell.add(url).catch(() => undefined);
    }
    const missing = [];
    for (const url of data) {
      const answer = await fetch(url, { headers: { "Accept-Language": language } }).catch(() => null);
      if (answer && answer.ok) await keep(url, answer);
      else missing.push(url);
    }
    for (const client of await self.clients.matchAll()) client.postMessage({ kept: job, missing });
  };
  e.waitUntil(work());
});

self.addEventListener("fetch", (e) => {
  const { request } = e;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== self.location.origin) return;
  if (request.mode === "navigate") {
    e.respondWith(fetch(request).catch(async () => (await caches.match("/")) || Response.error()));
  } else if (url.pathname.startsWith("/assets/")) {
    const get = async () => {
      const kept = await caches.match(request);
      if (kept) return kept;
      const answer = await fetch(request);
      if (answer.ok) (await caches.open(PROGRAM)).put(request, answer.clone());
      return answer;
    };
    e.respondWith(get());
  } else if (KEPT.test(url.pathname)) {
    const get = async () => {
      try {
        const answer = await fetch(request);
        // Parts of an answer are of no use to who has nothing.
        if (answer.ok && !url.searchParams.has("have")) e.waitUntil(keep(request.url, answer.clone()));
        return answer;
      } catch (silent) {
        const kept = await caches.match(named(request.url));
        if (kept) return kept;
        throw silent;
      }
    };
    e.respondWith(get());
  }
});
