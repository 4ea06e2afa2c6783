// What a page does so that it opens without a network, and what it says when it was opened so.
(() => {
  const keptAt = document.body.dataset.keptAt;
  const clock = at => new Date(at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit", hourCycle: "h23" });

  if (keptAt) {
    const note = document.getElementById("kept-note");
    const day = new Date(keptAt).toDateString() === new Date().toDateString() ? "" : `${new Date(keptAt).toISOString().slice(0, 10)} `;
    note.firstElementChild.textContent = document.querySelector("[data-offline-page]") ? "No network."
      : `${{ server: "The server is in trouble", slow: "The server does not answer yet" }[document.body.dataset.keptWhy] ?? "No network"}. This page is as it was at ${day}${clock(keptAt)}; what you enter waits on this tablet and is sent by itself.`;
    note.hidden = false;
    // Back as soon as there is something to come back to, but never under a hand that types.
    const look = async () => {
      try {
        if (!(await fetch("/health/live", { cache: "no-store" })).ok) return;
      } catch { return; }
      await window.zandrik?.outbox?.drain();
      const typing = document.activeElement?.matches("input:not([type=checkbox], [type=radio]), textarea, select") && document.activeElement.value;
      if (!typing) location.reload();
      else note.firstElementChild.textContent = "The server answers again. Load the page again when you are done typing.";
    };
    addEventListener("online", look);
    navigator.serviceWorker?.addEventListener("message", event => { if (event.data === "answers") look(); });
    navigator.serviceWorker?.startMessages();
    setInterval(look, 5000);
  }

  // The page for what was not kept: which jobs were.
  const kept = document.querySelector("[data-kept-jobs]");
  if (kept && "caches" in window) caches.match("/kept-jobs").then(async list => {
    const jobs = await list?.json() ?? [];
    kept.replaceChildren(...jobs.map(({ job, title }) => {
      const line = document.createElement("li"), link = document.createElement("a");
      link.href = `/jobs/${job}/dry`;
      link.textContent = title ? `Job ${job}, ${title}` : `Job ${job}`;
      line.append(link);
      return line;
    }));
    kept.closest("section").hidden = jobs.length === 0;
  });

  // Signed in and on a connection the browser trusts: the worker takes over once the page is at rest.
  if (!("serviceWorker" in navigator) || !document.querySelector('meta[name="zandrik-person"]') || keptAt) return;
  const begin = async () => {
    await navigator.serviceWorker.register("/worker.js").catch(() => null);
    const { active } = await navigator.serviceWorker.ready;
    const here = new URL(location.href);
    here.hash = "";
    // This page, what it is drawn with, and the other steps of its job.
    active.postMessage({
      assets: performance.getEntriesByType("resource").map(e => e.name).filter(n => n.startsWith(location.origin)),
      pages: [here.href, ...[...document.querySelectorAll("#rail-steps a")].map(a => a.href), ...(document.querySelector("[data-keep-pages]")?.dataset.keepPages.split(" ") ?? []).map(p => new URL(p, here).href)],
    });
    document.documentElement.dataset.kept = "asked";
  };
  const later = () => setTimeout(begin, 2000);
  if (document.readyState === "complete") later(); else addEventListener("load", later);
})();
