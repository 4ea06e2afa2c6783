// One stream of changes for all tabs of this browser. A browser opens six connections to a host and no more: with a
// stream for each tab the seventh would never load. One tab listens to the server and passes on; when it goes, or was
// hidden for long, another takes over. What a tab missed in between it asks for by the mark of what it heard last.
window.zandrik = window.zandrik ?? {};
zandrik.live = (() => {
  const person = document.querySelector('meta[name="zandrik-person"]')?.content ?? "";
  const me = [...crypto.getRandomValues(new Uint8Array(8))].map(b => b.toString(16).padStart(2, "0")).join("");
  const channel = typeof BroadcastChannel === "function" ? new BroadcastChannel(`zandrik-live-${person}`) : null;
  const patienceMs = 250, longHiddenMs = 5 * 60 * 1000, lookMs = 20000, mostRemembered = 300;

  let followed = null;          // what this tab shows: { job, ready, change }
  let leader = "", stream = null, slept = false, hidden = 0;
  let mark = "", start = "";    // the last that was heard here; from where on the leader remembers
  let remembered = [];

  const post = message => channel?.postMessage({ ...message, from: me });
  const parts = text => { const [copy, n] = (text ?? "").split("-"); return { copy, n: Number(n) }; };

  // What happened after a mark; null where nobody here can say.
  function after(since) {
    const a = parts(since), s = parts(start);
    if (a.copy !== s.copy || !(a.n >= s.n)) return null;
    return remembered.filter(m => parts(m.mark).n > a.n);
  }
  function take(message) {
    if (message.mark) mark = message.mark;
    if (message.type === "ready") followed?.ready();
    else if (message.job === 0 || message.job === followed?.job) followed?.change(message.row);
  }
  function hear(message) {
    if (message.type === "change") {
      remembered.push(message);
      if (remembered.length > mostRemembered) start = remembered.shift().mark;
    }
    post(message);
    take(message);
  }
  function open() {
    stream = new EventSource(`/live?since=${encodeURIComponent(mark)}`);
    stream.addEventListener("ready", () => hear({ type: "ready" }));
    stream.addEventListener("change", event => {
      const [job, row] = event.data.split(" ").map(Number);
      hear({ type: "change", job, row, mark: event.lastEventId || mark });
    });
  }
  function lead() {
    [leader, start, remembered] = [me, mark, []];
    post({ type: "leader" });
    open();
  }
  function resign(to) {
    stream?.close();
    stream = null;
    leader = to;
    if (!to) post({ type: "gone" });
  }
  // Asks who listens; whoever gets no answer does it.
  let asking = 0;
  function ask() {
    if (leader === me || !followed) return;
    leader = "";
    post({ type: "who", since: mark });
    clearTimeout(asking);
    asking = setTimeout(() => { if (!leader && !document.hidden) lead(); }, patienceMs);
  }
  channel?.addEventListener("message", ({ data: m }) => {
    if (m.type === "who") {
      if (leader === me) post({ type: "leader", to: m.from, missed: after(m.since) });
    } else if (m.type === "leader") {
      // Two that began at once: the lower name stays.
      if (leader === me && m.from > me) post({ type: "leader" });
      else {
        if (leader === me) resign(m.from);
        leader = m.from;
        if (m.to === me) {
          if (m.missed === null) followed?.change(0);
          else for (const missed of m.missed) take(missed);
        }
      }
    } else if (m.type === "gone") {
      leader = "";
      setTimeout(ask, Math.random() * 150);
    } else take(m);
  });
  document.addEventListener("visibilitychange", () => {
    clearTimeout(hidden);
    if (document.hidden) hidden = setTimeout(() => { slept = true; if (leader === me) resign(""); }, longHiddenMs);
    else {
      if (slept) followed?.change(0);
      slept = false;
      if (leader !== me) ask();
    }
  });
  addEventListener("pagehide", () => { if (leader === me) resign(""); });

  // Tells this tab of changes on a job, from the mark its page was written at.
  function follow(job, since, ready, change) {
    followed = { job, ready, change };
    mark = since;
    if (!channel) { open(); return; }
    ask();
    // A leader that died without a word is found out.
    setInterval(() => { if (!document.hidden) ask(); }, lookMs);
  }
  return { follow, get leads() { return leader === me; } };
})();
