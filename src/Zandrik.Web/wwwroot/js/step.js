// The steps after the dry test. Every form is one entry: it lies in the outbox first and is sent from there, in
// order, so nothing is lost when the network goes; the step is shown anew as the server answers.
(() => {
  const { outbox } = zandrik;
  const step = () => document.getElementById("step");
  let waiting = 0, wanted = false, looking = false;
  const open = {};

  const say = text => { const line = step()?.querySelector("[data-says]"); if (line) line.textContent = text; };

  // What is typed or opened stays when the step is shown anew.
  function keep() {
    const typed = {};
    for (const e of step().querySelectorAll("input[id]:not([type=checkbox], [type=file]), textarea[id]")) if (e.value !== e.defaultValue) typed[e.id] = e.value;
    for (const e of step().querySelectorAll("select[id]")) if (e.selectedOptions[0] && !e.selectedOptions[0].defaultSelected && [...e.options].some(o => o.defaultSelected)) typed[e.id] = e.value;
    const focus = document.activeElement;
    const name = step().contains(focus) ? focus.id ? `#${CSS.escape(focus.id)}` : focus.dataset.ear ? `[data-ear="${focus.dataset.ear}"]` : "" : null;
    return { typed, name, scroll: scrollY };
  }
  function restore({ typed, name, scroll }, kept) {
    for (const [id, value] of Object.entries(typed)) { const e = document.getElementById(id); if (e && !kept.includes(id)) e.value = value; }
    for (const d of step().querySelectorAll("details")) if (open[key(d)] !== undefined) d.open = open[key(d)];
    if (name !== null) {
      const same = name && step().querySelector(name);
      // The natural next thing, where the one that was pressed is done; else the one that was pressed.
      const here = step().querySelector("[data-here]:not(:disabled)");
      const target = name.startsWith("[data-ear") ? same : here ?? same;
      target?.focus({ preventScroll: true });
    }
    scrollTo(0, scroll);
    clock();
  }
  const key = d => d.querySelector("summary")?.textContent.trim().slice(0, 24);
  function swap(html, kept = []) {
    const before = keep();
    const parsed = new DOMParser().parseFromString(html, "text/html").getElementById("step");
    if (!parsed) return;
    // A file that is chosen stays chosen.
    const files = [...step().querySelectorAll("input[type=file][id]")].filter(f => f.files.length && !kept.includes(f.id));
    // What has not changed stays the same element, with whatever a script has drawn in it.
    const same = [...step().querySelectorAll("[data-keep]")].map(e => [e, parsed.querySelector(`[data-keep="${CSS.escape(e.dataset.keep)}"]`)]).filter(([, e]) => e);
    step().replaceWith(parsed);
    for (const [old, anew] of same) anew.replaceWith(old);
    for (const f of files) document.getElementById(f.id)?.replaceWith(f);
    if (window.htmx) htmx.process(parsed);
    restore(before, kept);
    document.dispatchEvent(new CustomEvent("zandrik:shown"));
  }

  document.addEventListener("toggle", event => { if (step()?.contains(event.target)) open[key(event.target)] = event.target.open; }, true);

  function send(form, button) {
    const fields = Object.fromEntries(new FormData(form, button));
    delete fields.__RequestVerificationToken;
    fields.entry = outbox.uuid();
    waiting++;
    if (button && !button.dataset.ear) button.setAttribute("aria-busy", "true");
    outbox.add({ to: form.getAttribute("action"), form: fields, kind: "Step", job: Number(step().dataset.job), page: location.pathname, sent: Object.keys(fields), says: `${form.dataset.step}` });
  }

  document.addEventListener("submit", event => {
    const form = event.target.closest("[data-step]");
    if (!form || !step()?.contains(form) || form.enctype === "multipart/form-data") return;
    event.preventDefault();
    const button = event.submitter;
    if (button?.dataset.ear) louder(button);
    send(form, button);
    // The next tap on the same place is another entry.
    if (button?.dataset.ear) prepare(button);
  });
  document.addEventListener("change", event => {
    const form = event.target.closest("form[data-change]");
    if (form && step()?.contains(form)) form.requestSubmit();
  });

  // A tap shows at once; what it means for the judgement comes with the answer.
  const loudness = ["faint", "clear", "strong", "nothing"];
  function louder(ear) {
    const [place, loud] = ear.value.split("|");
    ear.dataset.loud = loud;
    ear.setAttribute("aria-label", `${ear.querySelector(".ear-name").textContent}: ${loud}`);
    const web = place.split(":")[1];
    if (web) step().querySelector(`.gasket[data-web="${web}"]`)?.classList.toggle("blown", loud !== "nothing");
  }
  function prepare(ear) {
    const [place, loud] = ear.value.split("|");
    ear.value = `${place}|${loudness[(loudness.indexOf(loud) + 1) % loudness.length]}`;
  }

  // Another cylinder on the ring: its way is drawn already, and only shown.
  function turnTo(cylinder) {
    for (const way of step().querySelectorAll(".way")) way.classList.toggle("shown", way.dataset.way === cylinder);
    for (const s of step().querySelectorAll(".station")) if (!s.classList.contains("now")) s.classList.toggle("next", s.dataset.station === cylinder);
    const says = step().querySelector(`[data-way-says="${cylinder}"]`), line = step().querySelector("[data-turn-says]");
    if (says && line) line.textContent = says.textContent;
    const choice = step().querySelector("[data-turn-to]");
    if (choice) choice.value = cylinder;
  }
  document.addEventListener("click", event => {
    const station = event.target.closest?.(".station[data-station]");
    if (station && step()?.contains(station) && !station.classList.contains("now")) turnTo(station.dataset.station);
  });
  document.addEventListener("change", event => { if (event.target.matches?.("[data-turn-to]")) turnTo(event.target.value); });
  document.addEventListener("change", event => { if (event.target.matches?.("[data-scale]")) scale(event.target.checked); });
  // One gauge or two: the same field, another name for what is typed.
  function scale(percent) {
    const field = document.getElementById(percent ? "held" : "percent");
    if (!field) return;
    const label = step().querySelector(`label[for="${field.id}"]`);
    field.id = field.name = percent ? "percent" : "held";
    label.htmlFor = field.id;
    label.textContent = percent ? "Lost, %" : label.textContent.replace("Lost, %", `Held, ${step().querySelector("[name=unit]")?.value ?? ""}`);
    field.focus();
  }

  // Seconds that run: the oil soaks for a minute.
  let ticking = 0;
  function clock() {
    clearInterval(ticking);
    const timers = [...(step()?.querySelectorAll("[data-since]") ?? [])];
    if (!timers.length) return;
    const show = () => {
      for (const t of timers) {
        const left = Number(t.dataset.seconds) - Math.round((Date.now() - Date.parse(t.dataset.since)) / 1000);
        t.textContent = left > 0 ? `soaking, ${left} s more` : "soaked";
        t.classList.toggle("ripe", left <= 0);
      }
    };
    show();
    ticking = setInterval(show, 500);
  }

  document.addEventListener("zandrik:sent", event => {
    const { entry, html } = event.detail;
    if (entry.kind !== "Step" || entry.page !== location.pathname || !step()) return;
    waiting = Math.max(0, waiting - 1);
    // With more on its way the last answer says it all.
    if (waiting === 0) swap(html, event.detail.refused ? [] : entry.sent);
  });
  document.addEventListener("zandrik:outbox", event => {
    const mine = event.detail.waiting.filter(e => e.kind === "Step" && e.page === location.pathname && !e.stuck).length;
    if (mine) { waiting = mine; say(`${mine === 1 ? "One entry waits" : `${mine} entries wait`} on this tablet; what you see is from before.`); }
  });

  // What somebody else did on this job.
  async function catchUp() {
    if (!wanted || looking || waiting || !step() || step().dataset.busy) return;
    if (step().contains(document.activeElement) && document.activeElement.matches("input:not([type=hidden])") && document.activeElement.value !== document.activeElement.defaultValue) return;
    wanted = false;
    looking = true;
    try {
      const answer = await fetch(step().dataset.address, { headers: { "HX-Request": "true" } });
      if (answer.ok && !waiting) swap(await answer.text());
    } catch { /* the stream says when the network is back */ }
    looking = false;
    catchUp();
  }
  document.addEventListener("focusout", () => setTimeout(catchUp));

  function begin() {
    if (!step()) return;
    clock();
    step().querySelector("[data-here]:not(:disabled)")?.focus({ preventScroll: true });
    if (step().dataset.live) {
      const stream = new EventSource(step().dataset.live);
      let first = true;
      stream.addEventListener("ready", () => { outbox.drain(); if (!first) { wanted = true; catchUp(); } first = false; });
      stream.addEventListener("change", () => { wanted = true; setTimeout(catchUp, 150); });
      addEventListener("pagehide", () => stream.close());
      addEventListener("pageshow", event => { if (event.persisted) location.reload(); });
    }
    document.documentElement.dataset.step = "awake";
  }
  zandrik.step = { swap };
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", begin);
  else begin();
})();
