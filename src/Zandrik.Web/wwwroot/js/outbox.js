// The outbox: what is typed at the engine lies in the browser's own database first and is sent from there, in
// order. With the network or the server gone it waits, also when the tab is closed, and the page says so. Each
// entry has a key, so the server keeps it once however often it is sent.
window.zandrik = window.zandrik ?? {};
zandrik.outbox = (() => {
  const meta = name => document.querySelector(`meta[name="${name}"]`);
  const person = () => Number(meta("zandrik-person")?.content ?? 0);
  const tell = (name, detail) => document.dispatchEvent(new CustomEvent(`zandrik:${name}`, { detail }));

  // Where a browser refuses its database (a private window), or is long in opening it, entries wait in the page, and each of
  // them beside it in the browser's simple store: the page may be left before the database opens.
  const here = [];
  let counter = 0;
  const asideName = "zandrik.aside.";
  const asideKey = e => asideName + (e.form.entry ?? e.at);
  function putAside(entry) {
    here.push(entry);
    try { localStorage.setItem(asideKey(entry), JSON.stringify(entry)); } catch { /* Then it is in the page alone. */ }
  }
  function dropAside(entry) {
    try { localStorage.removeItem(asideKey(entry)); } catch { /* It was never there. */ }
  }
  try {
    for (const key of Object.keys(localStorage).filter(k => k.startsWith(asideName))) here.push({ ...JSON.parse(localStorage.getItem(key)), number: --counter });
  } catch { /* A store that does not answer holds nothing. */ }
  const connect = () => new Promise(resolve => {
    let open, late = false;
    try { open = indexedDB.open("zandrik", 1); } catch { resolve(null); return; }
    open.onupgradeneeded = () => open.result.createObjectStore("entries", { keyPath: "number", autoIncrement: true });
    open.onsuccess = () => {
      resolve(open.result);
      // A browser may shut it under an open page.
      open.result.onclose = () => { database = connect(); stale = true; };
      // It opened after all: what lies in it from an earlier page is sent too, and new entries go there again.
      if (late) { database = Promise.resolve(open.result); stale = true; }
      // What had to stay beside it moves in.
      if (late || here.length) moveIn().then(drain);
    };
    open.onerror = () => resolve(null);
    // A browser whose database does not open for now must not keep readings from being sent.
    setTimeout(() => { late = true; resolve(null); }, 3000);
  });
  let database = connect();
  // A page that is left but kept by the browser can hold the database shut for the next one, and nobody is told. What is not
  // answered for this long counts as failed; where it comes about after all it is done twice, and each entry has its key.
  const answersWithinMs = 8000;
  // On the disk before it is said to wait. What is struck off may come back when the tablet dies: it is sent once more, and the server knows its key.
  async function store(mode, work, durability = "relaxed") {
    const db = await database;
    if (!db) return undefined;
    return new Promise((resolve, reject) => {
      const transaction = db.transaction("entries", mode, { durability });
      const request = work(transaction.objectStore("entries"));
      const limit = setTimeout(() => { stale = true; reject(new Error("The browser's database does not answer.")); }, answersWithinMs);
      transaction.oncomplete = () => { clearTimeout(limit); resolve(request.result); };
      transaction.onerror = transaction.onabort = () => { clearTimeout(limit); reject(transaction.error); };
    });
  }
  // What waits, oldest first, as it was last looked through. Each change this page makes is made in it too, so that a queue
  // of a hundred thousand is not read anew for each of them; who changes it in another tab says so.
  let seen = [], stale = true;
  const tabs = "BroadcastChannel" in window ? new BroadcastChannel("zandrik-outbox") : null;
  if (tabs) tabs.onmessage = () => { stale = true; };
  // Changes made while the database is read: it may have been read before them or after.
  const meanwhile = [];
  let readings = 0, looks = 0;
  function put(number, entry) {
    const at = seen.findIndex(e => e.number === number);
    if (at >= 0) seen.splice(at, 1, ...entry ? [entry] : []);
    else if (entry) {
      // By a clock that was set back its place is not the last.
      if (seen.length && seen.at(-1).at > entry.at) stale = true;
      seen.push(entry);
    }
  }
  function changed(number, entry, isPut = false) {
    if (!isPut) put(number, entry);
    if (readings) meanwhile.push([number, entry]);
    stale ||= !tabs;
    tabs?.postMessage("");
  }
  // Reads everything: what lies in the database and what had to stay in the page, whose numbers are below zero.
  async function all() {
    stale = false;
    readings++;
    const from = meanwhile.length;
    try {
      const kept = await store("readonly", s => s.getAll()) ?? [];
      seen = [...kept, ...here].sort((a, b) => a.at < b.at ? -1 : a.at > b.at ? 1 : 0);
      looks++;
      for (const [number, entry] of meanwhile.slice(from)) put(number, entry);
    } catch (broken) {
      stale = true;
      throw broken;
    } finally {
      if (--readings === 0) meanwhile.length = 0;
    }
    return [...seen];
  }
  const look = async () => stale ? all() : seen;
  // A database that takes nothing more (the tablet is full) is one that is not there. The number it has from now on.
  async function keep(entry) {
    const number = await store("readwrite", s => s.add(entry), "strict").catch(() => undefined);
    if (number !== undefined) return number;
    putAside({ ...entry, number: --counter });
    return counter;
  }
  async function moveIn() {
    for (const aside of here.splice(0)) {
      const { number, ...entry } = aside;
      if (await store("readwrite", s => s.add(entry), "strict").catch(() => undefined) === undefined) here.push(aside);
      else dropAside(aside);
    }
    stale = true;
    tabs?.postMessage("");
  }
  // On their way into the database: who asks what waits is told of them too.
  const arriving = [];
  async function whatWaits() {
    const kept = await look();
    return [...kept, ...arriving.filter(a => !kept.some(k => k.form.entry === a.form.entry))];
  }
  // As it was last looked, for whoever cannot wait for the look.
  const now = () => [...seen, ...arriving.filter(a => !seen.some(k => k.form.entry === a.form.entry))];
  async function forget(number) {
    put(number);
    const before = looks;
    if (number >= 0) await store("readwrite", s => s.delete(number));
    else for (const e of here.filter(x => x.number === number)) { dropAside(e); here.splice(here.indexOf(e), 1); }
    // What was read anew meanwhile may have it again; what was not is not searched for it in vain.
    changed(number, undefined, looks === before);
  }
  // Kept, but not sent again by itself.
  async function hold(entry, status) {
    const stuck = { ...entry, stuck: status };
    if (entry.number >= 0) await store("readwrite", s => s.put(stuck));
    else {
      // It may have moved into the database meanwhile, from where it is sent once more: the server knows its key.
      const at = here.findIndex(e => e.number === entry.number);
      if (at < 0) return;
      here.splice(at, 1);
      putAside(stuck);
    }
    changed(entry.number, stuck);
  }
  // Whether an entry still waits: another tab may have sent it.
  const waits = async ({ number }) => number < 0 || await store("readonly", s => s.get(number)) !== undefined;

  // randomUUID is only there on https and on this machine; a shop's own network may be neither.
  function uuid() {
    const b = crypto.getRandomValues(new Uint8Array(16));
    return [...b].map(x => x.toString(16).padStart(2, "0")).join("");
  }

  // Nothing is taken from under a finger: a tap that begins on an element which is gone when it ends is no tap.
  // Whoever shows something anew waits for this first; a pointer that never comes up again holds nothing up for long.
  let pressed = 0, whenUp = null, up = null;
  const lift = () => { up?.(); whenUp = up = null; };
  const liftIn = ms => { clearTimeout(pressed); pressed = setTimeout(lift, ms); };
  addEventListener("pointerdown", () => {
    whenUp ??= new Promise(resolve => { up = resolve; });
    liftIn(2000);
  }, true);
  // The click comes after the pointer is up, with a finger in a task of its own.
  for (const name of ["pointerup", "pointercancel"]) addEventListener(name, () => liftIn(60), true);
  addEventListener("click", () => liftIn(0), true);
  const lifted = () => whenUp;

  let trouble = "";      // what keeps entries from being sent: "", "network", "server", "database", "signed-out"
  let timer = 0, delay = 0;
  let draining = false, again = false;

  async function post(entry, token) {
    const body = new URLSearchParams({ at: entry.at, __RequestVerificationToken: token });
    for (const [name, value] of Object.entries(entry.form)) for (const one of [value].flat()) body.append(name, one);
    const stop = new AbortController();
    const limit = setTimeout(() => stop.abort(), 20000);
    try {
      // Of a step that is not on the screen nothing is wanted but that it is kept. What has a key may be sent again by a
      // proxy too, to another copy of the server when the one that was asked dies.
      const elsewhere = entry.page && entry.page !== location.pathname;
      return await fetch(entry.to, { method: "POST", body, headers: { "HX-Request": "true", ...elsewhere && { "Zandrik-Part": "none" }, ...entry.form.entry && { "Zandrik-Keyed": "entry" } }, signal: stop.signal, redirect: "manual" });
    } finally {
      clearTimeout(limit);
    }
  }

  // Sends one entry. True when it is done with, whatever came of it; false when it has to wait.
  async function send(entry) {
    let answer;
    try {
      answer = await post(entry, meta("zandrik-form")?.content ?? "");
      if (answer.status === 400) {
        // The form token of this page is too old: a fresh page has a fresh one.
        const page = new DOMParser().parseFromString(await (await fetch("/account")).text(), "text/html");
        const fresh = page.querySelector('meta[name="zandrik-form"]')?.content;
        if (fresh) {
          meta("zandrik-form").content = fresh;
          answer = await post(entry, fresh);
        }
      }
      if (answer.status === 401 || answer.type === "opaqueredirect") { trouble = "signed-out"; return false; }
      if (answer.status === 503) { trouble = "database"; return false; }
      if (answer.status >= 500 || answer.status === 408 || answer.status === 429) { trouble = "server"; return false; }
      const html = await answer.text();
      trouble = "";
      if (answer.status === 422 && entry.page && entry.page !== location.pathname) {
        // Refused by its step, which is not on the screen to say why: kept until somebody looks.
        await hold(entry, 422);
      } else if (answer.status === 422) {
        // The step says why. It is kept until that was really on the screen: a page that is just being left shows nothing.
        await hold(entry, 422);
        await lifted();
        tell("sent", { entry, html, refused: true });
        requestAnimationFrame(() => requestAnimationFrame(async () => { await forget(entry.number); await show(); }));
      } else if (answer.ok) {
        await forget(entry.number);
        await lifted();
        tell("sent", { entry, html, refused: false });
      } else {
        // The job is gone, or not this person's to write on: kept and shown until somebody decides.
        await hold(entry, answer.status);
      }
      return true;
    } catch {
      trouble = "network";
      return false;
    }
  }

  function retryLater() {
    delay = Math.min(delay ? delay * 2 : 1000, 15000);
    timer = setTimeout(drain, delay);
  }

  async function drain() {
    if (draining) { again = true; return; }
    if (!person()) { await show(); return; }
    draining = true;
    clearTimeout(timer);
    try {
      do {
        again = false;
        for (;;) {
          const [waiting, me] = [await look(), person()];
          const next = waiting.find(e => e.person === me && !e.stuck);
          if (!next) { delay = 0; break; }
          if (!await waits(next)) { put(next.number); continue; }
          if (!await send(next)) {
            if (trouble !== "signed-out") retryLater();
            break;
          }
          // Of a long queue not each.
          if (performance.now() - shownAt > 200) await show();
        }
      } while (again && !trouble);
    } catch {
      // The browser's database failed this once. What lies in it neither shows nor goes until it is asked again, and nobody else asks.
      stale = true;
      retryLater();
    } finally {
      draining = false;
    }
    await show();
    tell("outbox", { trouble, waiting: await whatWaits() });
  }

  async function add(entry) {
    const mine = { ...entry, person: person(), name: meta("zandrik-person")?.dataset.name, at: new Date().toISOString() };
    arriving.push(mine);
    const number = await keep(mine);
    changed(number, { ...mine, number });
    arriving.splice(arriving.indexOf(mine), 1);
    await drain();
  }

  // The figures of an entry, for whoever has to enter it again.
  const figures = { supply: "supply", held: "held", percent: "percent", value: "value", idle: "idle", snap: "snap", oil: "oil", Pulses: "compressions", Seconds: "seconds", BatteryV: "battery V", CrankingRpm: "rpm", PumpUp: "gauge" };
  const clock = e => new Date(e.at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
  // An entry in words: when, what, with its figures.
  const says = e => `${clock(e)} ${e.says}${e.form.done === "false" ? ", taken back" : ""}${e.form.hear ? `: ${e.form.hear.replace("|", ", ").replaceAll("-", " ").replace(":", " ")}` : ""}${e.form.item === "turned" ? ` to ${e.form.way}` : ""}${typed(e)}`;
  const typed = e => Object.keys(figures).filter(n => e.form[n]).map(n => ` ${figures[n]} ${e.form[n]}`).join(",");
  const sent = n => n === 1 ? "will be sent by itself" : "will be sent by themselves, in order";
  const count = n => n === 1 ? "One entry waits" : `${n} entries wait`;
  let shownAt = -Infinity;
  async function show() {
    const box = document.getElementById("outbox");
    // A page for nobody, shown where there is no network, cannot say whose entries are sent: it says itself that they wait.
    if (!box || document.querySelector("[data-offline-page]")) return;
    shownAt = performance.now();
    // Once for all of them: a page that is searched anew for each of a hundred thousand does nothing else.
    const [waiting, me] = [await look(), person()];
    const mine = waiting.filter(e => e.person === me && !e.stuck);
    const others = waiting.filter(e => e.person !== me);
    const stuck = waiting.filter(e => e.person === me && e.stuck);
    const parts = [];
    if (mine.length && trouble === "network") parts.push([`No network. ${count(mine.length)} on this tablet and ${sent(mine.length)}.`]);
    else if (mine.length && trouble === "database") parts.push([`The database is away; what you type is kept on this tablet. ${count(mine.length)} and ${sent(mine.length)}.`]);
    else if (mine.length && trouble === "server") parts.push([`The server is in trouble. ${count(mine.length)} on this tablet and ${sent(mine.length)}.`]);
    else if (mine.length && trouble === "signed-out") parts.push([`You are signed out. ${count(mine.length)} on this tablet.`, "Sign in to send", () => { location.href = `/sign-in?back=${encodeURIComponent(location.pathname + location.search)}`; }]);
    if (others.length) parts.push([`${count(others.length)} here for ${[...new Set(others.map(e => e.name))].join(" and ")} to sign in.`]);
    for (const e of stuck) parts.push([e.stuck === 422 ? `${e.says}, typed ${clock(e)}${typed(e)}: its step did not take it as things stand now. Open the step and enter it again.` : `${e.says}: not taken, the job is not there or not yours to write on.`, "Throw it away", async () => { await forget(e.number); await show(); }]);
    box.replaceChildren(...parts.map(([text, action, act]) => {
      const line = document.createElement("span");
      line.textContent = text + " ";
      if (action) {
        const button = document.createElement("button");
        button.type = "button";
        button.className = "btn btn-sm btn-outline-primary";
        button.textContent = action;
        button.addEventListener("click", act);
        line.append(button);
      }
      return line;
    }));
    box.hidden = parts.length === 0;
  }

  // After a while away everything is looked through.
  const anew = () => { stale = true; return drain(); };
  addEventListener("online", anew);
  addEventListener("pageshow", event => { if (event.persisted) anew(); });
  addEventListener("offline", async () => {
    trouble = "network";
    await show();
    tell("outbox", { trouble, waiting: await whatWaits() });
  });
  document.addEventListener("visibilitychange", () => { if (!document.hidden) anew(); });
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", drain);
  else drain();
  return { add, all, now, says, drain, uuid, person, lifted, get trouble() { return trouble; } };
})();
