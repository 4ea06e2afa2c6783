// Takes a reading from an instrument: the answer to the form is a stream of what happens, and everybody else who has the
// page open watches the same needle.
(() => {
  const { show, say } = zandrik.gauge;
  const panel = document.querySelector("[data-take]");
  const form = document.querySelector("[data-take-form]");
  let taking = null;

  function happened(event, mine) {
    if (event.state === "needle") { show(event.pa, event.count); return; }
    if (event.says) say(event.says, event.state === "trouble" || event.state === "refused");
    panel.dataset.state = event.state;
    if (event.state === "saved" && mine && event.go) setTimeout(() => { location.href = event.go; }, 1200);
  }
  // Events of a stream that a form was answered with.
  async function read(stream, each) {
    const reader = stream.pipeThrough(new TextDecoderStream()).getReader();
    let text = "";
    for (;;) {
      const { value, done } = await reader.read();
      if (done) return;
      text += value;
      for (let end = text.indexOf("\n\n"); end >= 0; end = text.indexOf("\n\n")) {
        const line = text.slice(0, end);
        text = text.slice(end + 2);
        if (line.startsWith("data: ")) each(JSON.parse(line.slice(6)));
      }
    }
  }
  const buttons = on => {
    const now = form.querySelector("[data-take-now]"), stop = form.querySelector("[data-take-stop]");
    now.disabled = on;
    stop.hidden = !on;
  };
  form?.addEventListener("submit", async event => {
    event.preventDefault();
    taking = new AbortController();
    buttons(true);
    say("Looking for the instrument.", false);
    show(0, 0);
    try {
      const answer = await fetch(form.action, { method: "POST", body: new URLSearchParams(new FormData(form)), signal: taking.signal });
      if (!answer.ok || !answer.body) { say("The server did not take it. Reload the page and try again, or type the reading.", true); return; }
      await read(answer.body, e => happened(e, true));
    } catch {
      say(taking.signal.aborted ? "Stopped. Check whether a reading was saved before you take it again." : "The network broke off. Look whether the reading was saved, or type it.", true);
    } finally {
      form.querySelector("[name=entry]").value = crypto.randomUUID?.() ?? String(Math.random());
      taking = null;
      buttons(false);
    }
  });
  form?.querySelector("[data-take-stop]").addEventListener("click", () => taking?.abort());

  // What others read meanwhile.
  if (panel && window.EventSource) {
    const watch = new EventSource(panel.dataset.watch);
    watch.addEventListener("message", event => {
      const told = JSON.parse(event.data);
      if (told.state === "watching") panel.dataset.watching = "yes";
      else if (!taking) happened(told, false);
    });
    addEventListener("pagehide", () => watch.close());
  }
})();
