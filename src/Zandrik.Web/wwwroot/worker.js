// The service worker: what a tablet needs to open Zandrik where there is no network. Styles, scripts and fonts are kept as
// they come; of the jobs opened last their pages, as they were when they were last shown. It sends nothing: what is
// typed goes through the outbox of the page, and every page that can be had fresh is fresh.
const ASSETS = "zandrik-assets-1", PAGES = "zandrik-pages-1", LIST = "/kept-jobs";
const MOST_JOBS = 30, MOST_ASSETS = 150, PATIENCE_MS = 1000, PATIENCE_WITH_A_SLOW_SERVER_MS = 8000, FRESH_MS = 5 * 60 * 1000;

const isAsset = url => /^\/(lib|js|icons)\//.test(url.pathname) || /^\/(zandrik|noscript|favicon|manifest)\./.test(url.pathname);
// Named after its content, it never changes.
const isForGood = url => /\.[a-z0-9]{10}\.(js|css|svg)$/.test(url.pathname) || url.pathname.startsWith("/lib/fonts/");
const jobOf = url => Number(/^\/jobs\/(\d+)(\/|$)/.exec(url.pathname)?.[1] ?? 0);
const isKept = url => url.pathname === "/" || url.pathname === "/offline" || url.pathname.startsWith("/help") || jobOf(url) > 0;
// What is only shown, not what is made for it: files, parts of pages, the tour.
const isPage = url => !url.searchParams.has("handler") && !url.searchParams.has("tour");

self.addEventListener("install", event => event.waitUntil((async () => {
  await keep(new URL("/offline", location.origin));
  await self.skipWaiting();
})()));
self.addEventListener("activate", event => event.waitUntil((async () => {
  await self.registration.navigationPreload?.enable();
  for (const name of await caches.keys()) if (name.startsWith("zandrik-") && name !== ASSETS && name !== PAGES) await caches.delete(name);
  await self.clients.claim();
})()));

self.addEventListener("fetch", event => {
  const url = new URL(event.request.url);
  if (event.request.method !== "GET" || url.origin !== location.origin) return;
  if (isAsset(url)) event.respondWith(asset(event, url));
  else if (event.request.mode === "navigate") event.respondWith(page(event, url));
});

self.addEventListener("message", event => event.waitUntil((async () => {
  const { assets = [], pages = [] } = event.data ?? {};
  const cache = await caches.open(ASSETS);
  for (const url of assets) if (isAsset(new URL(url)) && !await cache.match(url)) await cache.add(url).catch(() => {});
  // One after the other: the engine comes first.
  for (const url of pages) await keep(new URL(url)).catch(() => {});
})()));

async function asset(event, url) {
  const cache = await caches.open(ASSETS);
  const kept = await cache.match(event.request);
  if (kept && isForGood(url)) return kept;
  try {
    const answer = await fetch(event.request);
    if (answer.ok) event.waitUntil(cache.put(event.request, answer.clone()).then(() => trim(cache)));
    return answer;
  } catch (error) {
    if (kept) return kept;
    throw error;
  }
}
async function trim(cache) {
  const keys = await cache.keys();
  for (const key of keys.slice(0, Math.max(0, keys.length - MOST_ASSETS))) await cache.delete(key);
}

// A server that answers, only late, is waited for longer for a while: else its fresh page would never be seen.
let lateAt = -Infinity;
const patience = () => Date.now() - lateAt < 60000 ? PATIENCE_WITH_A_SLOW_SERVER_MS : PATIENCE_MS;

async function page(event, url) {
  // Whoever has to sign in is not the one these pages were kept for, or has signed out.
  if (url.pathname === "/sign-in") event.waitUntil(clear());
  const fresh = (async () => (await event.preloadResponse) ?? fetch(event.request))();
  const kept = isPage(url) ? await find(url) : undefined;
  let slow = false;
  const late = no => { slow = true; no(new Error("slow")); };
  try {
    // A network that is there and answers nothing is no network: nobody at an engine waits for it.
    const answer = await (kept ? Promise.race([fresh, new Promise((_, no) => setTimeout(late, patience(), no))]) : fresh);
    // A server that is there and can do nothing is one that is away.
    if (answer.status >= 500 && kept) return old(kept, "server");
    if (answer.ok && answer.type === "basic" && isKept(url) && isPage(url)) event.waitUntil(put(url, answer.clone()));
    return answer;
  } catch {
    // It came after all: the page that is shown meanwhile is told.
    event.waitUntil(fresh.then(async () => {
      lateAt = Date.now();
      (await self.clients.get(event.resultingClientId))?.postMessage("answers");
    }).catch(() => {}));
    return kept ? old(kept, slow ? "slow" : "network") : old(await find(new URL("/offline", location.origin)) ?? Response.error());
  }
}

// What was fetched before does not come in after; the page that says what is not kept is everybody's and stays.
let cleared = 0;
async function clear() {
  cleared++;
  await caches.delete(PAGES);
  await keep(new URL("/offline", location.origin)).catch(() => {});
}

// The page of this address, or of the same step with another cylinder.
async function find(url) {
  const cache = await caches.open(PAGES);
  return await cache.match(url.pathname + url.search) ?? await cache.match(url.pathname, { ignoreSearch: true });
}

// As it was kept, with the time in it, so that the page can say so.
async function old(kept, why = "network") {
  if (!kept.headers.has("x-kept-at")) return kept;
  const html = (await kept.text()).replace("<body", `<body data-kept-at="${kept.headers.get("x-kept-at")}" data-kept-why="${why}"`);
  return new Response(html, { status: 200, headers: kept.headers });
}

async function keep(url) {
  if (!isKept(url) || !isPage(url)) return;
  const cache = await caches.open(PAGES);
  const there = await cache.match(url.pathname + url.search);
  if (there && Date.now() - Date.parse(there.headers.get("x-kept-at")) < FRESH_MS) return;
  const before = cleared;
  const answer = await fetch(url, { credentials: "same-origin" });
  if (answer.ok && !answer.redirected && before === cleared) await put(url, answer);
}

async function put(url, answer) {
  const html = await answer.text();
  const headers = new Headers(answer.headers);
  headers.set("x-kept-at", new Date().toISOString());
  headers.delete("content-encoding");
  headers.delete("content-length");
  const cache = await caches.open(PAGES);
  await cache.put(url.pathname + url.search, new Response(html, { headers }));
  // A page without what it is drawn with and driven by is none: it may never have been opened here itself.
  const assets = await caches.open(ASSETS);
  for (const [, path] of html.matchAll(/(?:src|href)="(\/[^"#]+)"/g)) {
    const needed = new URL(plain(path), location.origin);
    if (isAsset(needed) && !await assets.match(needed)) await assets.add(needed).catch(() => {});
  }
  const job = jobOf(url);
  if (job) await note(cache, job, plain(/data-job-title="([^"]*)"/.exec(html)?.[1] ?? ""));
}

// A worker has no parser: what stands in an attribute as it is read.
const plain = text => text.replace(/&#x([0-9a-f]+);/gi, (_, code) => String.fromCodePoint(parseInt(code, 16)))
  .replaceAll("&quot;", '"').replaceAll("&lt;", "<").replaceAll("&gt;", ">").replaceAll("&amp;", "&");

// The jobs that are kept, the last opened first; pages of older ones go. One at a time, or one takes the other's away.
let noting = Promise.resolve();
function note(cache, job, title) {
  noting = noting.then(async () => {
    const list = await (await cache.match(LIST))?.json() ?? [];
    const now = [{ job, title: title || (list.find(l => l.job === job)?.title ?? "") }, ...list.filter(l => l.job !== job)];
    await cache.put(LIST, new Response(JSON.stringify(now.slice(0, MOST_JOBS))));
    const gone = now.slice(MOST_JOBS).map(l => l.job);
    if (gone.length) for (const key of await cache.keys()) if (gone.includes(jobOf(new URL(key.url)))) await cache.delete(key);
  }).catch(() => {});
  return noting;
}
