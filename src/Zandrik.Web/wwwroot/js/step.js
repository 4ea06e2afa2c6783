// The steps after the dry test. Every form is one entry: it lies in the outbox first and is sent from there, in
// order, so nothing is lost when the network goes; the step is shown anew as the server answers.
(() => {
  const { outbox } = zandrik;
  const step = () => document.getElementById("step");
  // Keys of this step's entries that are on their way.
  let waiting = new Set();
  let wanted = false, looking = false, swaps = 0;
  // When this person was last answered, and for how long that stays to be read.
  let toldAt = -Infinity;
  const toldMs = 10000;
  const open = {};

  const say = text => { const line = step()?.querySelector("[data-says]"); if (line) line.textContent = text; };

  const boxes = (name, value) => [...step().querySelectorAll("input[name]:is([type=checkbox], [type=radio])")].filter(b => (!name || b.name === name) && (!value || b.value === value));
  // What is typed, ticked or opened stays when the step is shown anew.
  function keep() {
    const typed = {};
    const ticked = boxes().filter(b => b.checked !== b.defaultChecked).map(({ name, value, checked }) => ({ name, value, checked }));
    for (const e of step().querySelectorAll("input[id]:not([type=checkbox], [type=file]), textarea[id]")) if (e.value !== e.defaultValue) typed[e.id] = e.value;
    for (const e of step().querySelectorAll("select[id]")) if (e.selectedOptions[0] && !e.selectedOptions[0].defaultSelected && [...e.options].some(o => o.defaultSelected)) typed[e.id] = e.value;
    return { typed, ticked, address: step().dataset.address, focus: step().contains(document.activeElement) ? document.activeElement : null, scroll: scrollY };
  }
  const named = e => `${e.tagName} ${e.getAttribute("aria-label") ?? e.textContent.trim()}`;
  // The same thing in the step as it is shown now: by its identity, its place on the section, or what it says.
  function again(e) {
    if (e.id) return document.getElementById(e.id);
    if (e.dataset.do) return step().querySelector(`[data-do="${e.dataset.do}"]:not(:disabled)`);
    if (e.dataset.ear) return step().querySelector(`[data-ear="${e.dataset.ear}"]`);
    return [...step().querySelectorAll(e.tagName)].find(other => named(other) === named(e)) ?? null;
  }
  function restore({ typed, ticked, address, focus, scroll }, kept, own) {
    // What is ticked is of this cylinder: on the next one nothing is ticked by itself.
    for (const { name, value, checked } of address === step().dataset.address ? ticked : []) {
      const [box, another] = boxes(name, value);
      if (!box || another || kept.includes(name)) continue;
      box.checked = checked;
      if ("scale" in box.dataset) scale(checked);
    }
    for (const [id, value] of Object.entries(typed)) { const e = document.getElementById(id); if (e && !kept.includes(id)) e.value = value; }
    for (const d of step().querySelectorAll("details")) if (open[key(d)] !== undefined) d.open = open[key(d)];
    if (focus) {
      const same = again(focus);
      const here = step().querySelector("[data-here]:not(:disabled)");
      // The natural next thing, where the one that was pressed is done. But a hand that is at another field already, or at the section, stays there; and what others do moves nobody's hand.
      const stays = !own || movedOn || focus.dataset.ear || (focus.id in typed && !kept.includes(focus.id));
      const target = stays ? same ?? here : here ?? same;
      placing = true;
      target?.focus({ preventScroll: true });
      placing = false;
      if (target === same && focus.id in typed) target?.setSelectionRange?.(target.value.length, target.value.length);
    }
    scrollTo(0, scroll);
    clock();
  }
  // Whether the hand has gone to something else since it pressed: an answer that comes then does not call it away.
  let movedOn = false, placing = false;
  document.addEventListener("focusin", event => { if (!placing && step()?.contains(event.target)) movedOn = true; });
  const key = d => d.querySelector("summary")?.textContent.trim().slice(0, 24);
  function swap(html, kept = [], own = true) {
    const before = keep();
    const parsed = new DOMParser().parseFromString(html, "text/html").getElementById("step");
    if (!parsed) return;
    // A file that is chosen stays chosen.
    const files = [...step().querySelectorAll("input[type=file][id]")].filter(f => f.files.length && !kept.includes(f.id));
    // What has not changed stays the same element, with whatever a script has drawn in it.
    const same = [...step().querySelectorAll("[data-keep]")].map(e => [e, parsed.querySelector(`[data-keep="${CSS.escape(e.dataset.keep)}"]`)]).filter(([, e]) => e);
    swaps++;
    // What was just answered is not wiped away by a look at the same a moment later.
    const line = step().querySelector("[data-says][data-told]");
    if (own) toldAt = performance.now();
    else if (line && performance.now() - toldAt < toldMs) parsed.querySelector("[data-says]")?.replaceWith(line);
    step().replaceWith(parsed);
    for (const [old, anew] of same) anew.replaceWith(old);
    for (const f of files) document.getElementById(f.id)?.replaceWith(f);
    if (window.htmx) htmx.process(parsed);
    restore(before, kept, own);
    document.dispatchEvent(new CustomEvent("zandrik:shown"));
  }

  // Only what somebody opened or closed stays so; what the server opened is the server's to close again.
  document.addEventListener("click", event => {
    const part = event.target.closest?.("summary")?.parentElement;
    if (part && step()?.contains(part)) open[key(part)] = !part.open;
  });

  function send(form, button) {
    movedOn = false;
    // With nobody to ask, the rules that came with the page decide, and what is asked is asked here.
    const alone = outbox.trouble || document.body.dataset.keptAt;
    // More oil than fits is asked about in any case: that nobody answers is known only after the first entry.
    const why = (alone ? zandrik.guards.refuses(form, button) ?? zandrik.guards.implausible(form) : null) ?? zandrik.guards.asks(form, button);
    if (why) { refuse(why); return; }
    const fields = {};
    // A name that comes more than once (boxes of one list) is a list.
    for (const [name, value] of new FormData(form, button)) fields[name] = name in fields ? [fields[name], value].flat() : value;
    delete fields.__RequestVerificationToken;
    fields.entry = outbox.uuid();
    waiting.add(fields.entry);
    if (button && !button.dataset.ear) button.setAttribute("aria-busy", "true");
    // A box that is not ticked says something too.
    const sent = new Set([...Object.keys(fields), ...[...form.elements].map(e => e.name).filter(Boolean)]);
    outbox.add({ to: form.getAttribute("action"), form: fields, kind: "Step", job: Number(step().dataset.job), page: location.pathname, sent: [...sent], says: `${form.dataset.step}`, makes: zandrik.guards.makes(form, button), ml: zandrik.guards.amount(form) })
      // The crank was turned and nobody answers: the page of that cylinder, as it was kept.
      .then(() => { if (outbox.trouble && "turns" in form.dataset && fields.way) location.href = `${location.pathname}?cylinder=${fields.way}`; });
  }
  function refuse(why) {
    const line = step().querySelector("[data-says]");
    line.textContent = "";
    complain(why);
    toldAt = performance.now();
    line.scrollIntoView({ block: "nearest" });
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

  // A swipe up from a place says at once how loud it is: a little faint, more clear, far strong.
  let swipe = null, swiped = -Infinity;
  const swipeStepPx = 28;
  const swipeLoud = dy => ["", "faint", "clear", "strong"][Math.min(3, Math.max(0, Math.floor(dy / swipeStepPx)))];
  document.addEventListener("pointerdown", event => {
    const ear = event.target.closest?.(".ear");
    swipe = ear && step()?.contains(ear) && !ear.matches(":disabled") ? { ear, y: event.clientY, was: ear.dataset.loud } : null;
  });
  document.addEventListener("pointermove", event => {
    if (swipe) swipe.ear.dataset.loud = swipeLoud(swipe.y - event.clientY) || swipe.was;
  });
  document.addEventListener("pointerup", event => {
    const { ear, y, was } = swipe ?? {};
    swipe = null;
    if (!ear?.isConnected) return;
    const loud = swipeLoud(y - event.clientY);
    if (!loud) { ear.dataset.loud = was; return; }
    ear.value = `${ear.value.split("|")[0]}|${loud}`;
    swiped = performance.now();
    ear.form.requestSubmit(ear);
  });
  document.addEventListener("pointercancel", () => { if (swipe) swipe.ear.dataset.loud = swipe.was; swipe = null; });
  // The click that follows a swipe is no tap.
  document.addEventListener("click", event => {
    if (event.target.closest?.(".ear") && performance.now() - swiped < 400 && event.detail > 0) { event.preventDefault(); event.stopImmediatePropagation(); }
  }, true);

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
  document.addEventListener("change", event => { if (event.target.matches?.("[data-scale]")) scale(event.target.checked)?.focus(); });
  // One gauge or two: the same field, another name for what is typed.
  function scale(percent) {
    const field = document.getElementById(percent ? "held" : "percent");
    if (!field) return;
    const label = step().querySelector(`label[for="${field.id}"]`);
    field.id = field.name = percent ? "percent" : "held";
    label.htmlFor = field.id;
    label.textContent = percent ? "Lost, %" : label.textContent.replace("Lost, %", `Held, ${step().querySelector("[name=unit]")?.value ?? ""}`);
    return field;
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

  function isAsSent(name, sent) {
    const named = boxes(name);
    if (named.length) return named.filter(b => b.checked).map(b => b.value).join() === [sent ?? []].flat().join();
    const field = document.getElementById(name);
    return !field || field.value === sent;
  }
  document.addEventListener("zandrik:sent", event => {
    const { entry, html } = event.detail;
    if (entry.kind !== "Step" || entry.page !== location.pathname || !step()) return;
    waiting.delete(entry.form.entry);
    const { refused } = event.detail;
    // What was typed into the same field since it was sent is the next entry, not this one.
    if (!refused) taken.push(...entry.sent.filter(name => isAsSent(name, entry.form[name])));
    // With more on its way the last answer says it all, but why one before it was not taken.
    if (waiting.size) {
      if (refused) unsaid.push(problemIn(html));
      return;
    }
    swap(html, taken.splice(0));
    for (const problem of unsaid.splice(0)) complain(problem);
  });
  // What waits, in order, so that nothing is entered twice because it is not seen.
  function list(entries) {
    step()?.querySelector("[data-waiting]")?.remove();
    if (!entries.length || !outbox.trouble) return;
    const box = document.createElement("ol");
    box.className = "waiting-list";
    box.dataset.waiting = "";
    // Longer than its place it scrolls, by keyboard too.
    box.tabIndex = 0;
    box.setAttribute("aria-label", "Waits on this tablet");
    // Of very many the latest: the numbers go on from those before.
    const latest = entries.slice(-50);
    box.start = entries.length - latest.length + 1;
    box.append(...latest.map(e => {
      const line = document.createElement("li");
      line.textContent = outbox.says(e);
      return line;
    }));
    step()?.querySelector("[data-says]")?.after(box);
  }
  const unsaid = [];
  // Fields whose entry the server has, since the step was last shown anew: they are empty again then.
  const taken = [];
  function problemIn(html) {
    const shown = new DOMParser().parseFromString(html, "text/html").getElementById("step");
    return (shown?.querySelector(".field-problem") ?? shown?.querySelector("[data-says]"))?.textContent.trim() ?? "One entry was not taken.";
  }
  function complain(problem) {
    const note = document.createElement("span");
    note.className = "field-problem";
    note.textContent = problem;
    const line = step()?.querySelector("[data-says]");
    if (!line) return;
    line.prepend(note);
    line.dataset.told = "";
  }
  document.addEventListener("zandrik:outbox", event => {
    const before = waiting;
    waiting = new Set(event.detail.waiting.filter(e => e.kind === "Step" && e.page === location.pathname && !e.stuck).map(e => e.form.entry));
    const n = waiting.size;
    list(event.detail.waiting.filter(e => e.kind === "Step" && e.page === location.pathname && !e.stuck));
    if (n && event.detail.trouble && performance.now() - toldAt > toldMs) say(`${n === 1 ? "One entry waits" : `${n} entries wait`} on this tablet; what you see is from before.`);
    // Sent by another tab, or not taken: look what stands there now.
    else if (!n && before.size) { wanted = true; catchUp(); }
  });

  // A figure that is half typed is not shown anew; it is looked again when the hand leaves the field.
  const isTyping = () => step().contains(document.activeElement) && document.activeElement.matches("input:not([type=hidden])") && document.activeElement.value !== document.activeElement.defaultValue;
  // What somebody else did on this job.
  async function catchUp() {
    if (!wanted || looking || waiting.size || !step() || step().dataset.busy || isTyping()) return;
    wanted = false;
    looking = true;
    try {
      const before = swaps;
      const answer = await fetch(step().dataset.address, { headers: { "HX-Request": "true" } });
      const html = await answer.text();
      await outbox.lifted();
      // Asked for before the step that is shown now, or before what is on its way: it would take that off the screen again.
      if (swaps !== before || waiting.size || step().dataset.busy || isTyping()) wanted = true;
      else if (answer.ok) swap(html, [], false);
    } catch { /* the stream says when the network is back */ }
    looking = false;
    catchUp();
  }
  for (const name of ["focusout", "zandrik:shown"]) document.addEventListener(name, () => setTimeout(catchUp));

  function begin() {
    if (!step()) return;
    clock();
    // After loading the hand is at the next reading, where everything before it is done; else at the heading. Never at
    // something that signs, ticks a safety line or says that something was done.
    const next = step().querySelector("input[data-here]:not(:disabled)");
    if (next) next.focus({ preventScroll: true });
    else {
      const heading = document.querySelector("main h1");
      heading?.setAttribute("tabindex", "-1");
      heading?.focus({ preventScroll: true });
    }
    if (step().dataset.live) {
      let first = true;
      zandrik.live.follow(Number(step().dataset.job), step().dataset.live,
        () => { outbox.drain(); if (!first) { wanted = true; catchUp(); } first = false; },
        () => { wanted = true; setTimeout(catchUp, 150); });
    }
    document.documentElement.dataset.step = "awake";
  }
  zandrik.step = { swap };
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", begin);
  else begin();
})();
