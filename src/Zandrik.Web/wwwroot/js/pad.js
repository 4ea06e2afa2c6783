// The pad: keys for a keyboard, buttons for a glove. Where it stands and what waits is known on this screen
// (bench.js), so that fingers are never held up by the network; what is judged comes from the server. Without
// scripts its form still posts.
(() => {
  const { outbox } = zandrik;
  const {
    bench, field, numbers, symbols, stand, pending, stillPending, waitingFigures, isMeasured, nextAfter,
    fromBench, place, force, swap, refused, settle, message, isOnItsWay, tellMeanwhile, look, catchUp,
  } = zandrik.bench;

  function beside(way) {
    const order = numbers(bench().dataset.order);
    const at = order.indexOf(stand.cylinder) + (way === "next" ? 1 : -1);
    return order[(at + order.length) % order.length];
  }

  function entry(handler, form, more) {
    const b = bench();
    const test = b.dataset.test ? { test: b.dataset.test } : {};
    const e = { job: Number(b.dataset.job), page: location.pathname, to: `${b.dataset.address}?handler=${handler}`, form: { ...form, ...test, entry: outbox.uuid() }, ...more };
    e.key = e.form.entry;
    pending.push(e);
    outbox.add(e);
  }

  function enter(kind) {
    // Nobody cranks under air or with liquid in a cylinder; with nobody to ask, what was done on this tablet counts.
    if (outbox.trouble || document.body.dataset.keptAt) {
      const why = zandrik.guards.refuses(document.getElementById("pad"), null);
      if (why) { message(why, true); return; }
    }
    const value = field().value.trim();
    if (value === "" && kind !== "Reading") {
      stand.kind = kind;
      message("", false);
      place();
      force();
      return;
    }
    const range = value.match(/^(\d+(?:[.,]\d+)?)\s*[-–/ ]\s*(\d+(?:[.,]\d+)?)$/);
    if (range) { askWhich(range[1], range[2], kind); return; }
    if (!/^(\d+([.,]\d*)?|[.,]\d+)$/.test(value)) { ask(value, kind); return; }
    const most = mostIn(stand.unit);
    if (kind !== "FirstPulse" && most && Number(value.replace(",", ".")) > most && sure !== `${stand.cylinder} ${value}`) { askWhetherReally(value, kind, most); return; }
    // Past the last cylinder Enter no longer walks on by itself, so it must not write over what stands there.
    if (kind === "Reading" && isMeasured(stand.cylinder) && nextAfter(stand.cylinder) === null) {
      if (over) keep(value, over, true); else askOver(value);
      return;
    }
    keep(value, kind, false);
  }

  // More than any engine reads is a slip of the finger or of the unit: asked before it is saved.
  let sure = "";
  const mostIn = unit => Number(bench().dataset.most.split(" ").map(m => m.split("=")).find(([u]) => u === unit)?.[1]);
  function askWhetherReally(value, kind, most) {
    question(`${value} ${symbols[stand.unit]} is more than an engine of this fuel reads (at most ${Math.round(most)} ${symbols[stand.unit]}). Check the gauge and its unit.`,
      [["Correct it", () => field().select()], ["Save it all the same", () => { sure = `${stand.cylinder} ${value}`; enter(kind); }]]);
  }

  // What a figure on a measured cylinder is meant as, once somebody said so; asked again after a reload.
  let over = null;
  function keep(value, kind, walk) {
    const { cylinder, unit } = stand;
    const seen = numbers(bench().dataset.seen)[cylinder - 1] ?? 0;
    field().value = "";
    document.querySelector(".pad-field").classList.remove("has-problem");
    entry("Enter", { cylinder, value, kind, unit, seen, ...(kind === "FirstPulse" ? {} : notedNow()) }, { kind, cylinder, value, says: `Cylinder ${cylinder}, ${value} ${symbols[unit]}` });
    if (kind !== "FirstPulse") stand.cylinder = nextAfter(cylinder) ?? (walk ? beside("next") : cylinder);
    stand.kind = "Reading";
    message("", false);
    force();
  }

  // What was typed about the reading before its figure was saved belongs to it, and to no other.
  function notedNow() {
    const more = document.getElementById("more"), noted = {};
    if (more && !more.hidden && Number(more.dataset.cylinder) === stand.cylinder) {
      for (const input of more.querySelectorAll("input:not([type=hidden])")) {
        if (input.value === input.defaultValue || input.value.trim() === "") continue;
        noted[input.name] = input.defaultValue = input.value;
      }
    }
    if (range?.cylinder === stand.cylinder) noted.Says = [range.note, noted.Says].filter(Boolean).join("; ");
    range = null;
    return noted;
  }

  const closeQuestion = () => document.getElementById("pad-ask")?.remove();
  // A question about what was typed; the figure stays in the pad until it is answered, and Escape goes back to it.
  function question(says, choices) {
    closeQuestion();
    const box = document.createElement("div");
    box.id = "pad-ask";
    box.className = "question";
    box.setAttribute("role", "group");
    box.setAttribute("aria-label", says);
    const text = document.createElement("span");
    text.textContent = says;
    box.append(text, ...choices.map(([label, act]) => {
      const button = document.createElement("button");
      button.type = "button";
      button.className = "btn btn-outline-primary";
      button.textContent = label;
      button.addEventListener("click", () => { closeQuestion(); act(); field()?.focus({ preventScroll: true }); });
      return button;
    }));
    box.addEventListener("keydown", event => {
      if (event.key === "Escape") { closeQuestion(); field()?.focus({ preventScroll: true }); }
    });
    document.querySelector(".pad-line").after(box);
    box.querySelector("button").focus({ preventScroll: true });
  }
  // A needle between two marks, or two readings in one line: never guessed.
  function askWhich(low, high, kind) {
    const [a, b] = [low, high].map(n => Number(n.replace(",", ".")));
    const middle = String(Math.round((a + b) * 500) / 1000);
    const counts = (figure, note) => () => { field().value = figure; if (note) noteRange(note); enter(kind); };
    question(`${low} or ${high} ${symbols[stand.unit]}? Choose the figure to save for cylinder ${stand.cylinder}.`, [[`${middle}, the middle`, counts(middle, `read between ${low} and ${high} ${symbols[stand.unit]}`)], [low, counts(low)], [high, counts(high)]]);
  }
  // The middle stands for the range it was taken from: the range is kept as the reading's note.
  let range = null;
  const noteRange = note => { range = { cylinder: stand.cylinder, note }; };
  // The first button is the one that loses nothing.
  function askOver(value) {
    const means = kind => () => { over = kind; keep(value, kind, true); };
    question(`Cylinder ${stand.cylinder} is already measured. Is ${value} ${symbols[stand.unit]} another reading, or a correction?`, [["Another reading", means("Repeat")], ["Correction", means("Reading")]]);
  }
  // The server says what is wrong with a figure that is none.
  async function ask(value, kind) {
    const form = new FormData(document.getElementById("pad"));
    form.set("value", value);
    form.set("kind", kind);
    form.set("cylinder", stand.cylinder);
    try {
      const answer = await fetch(`${bench().dataset.address}?handler=Enter`, { method: "POST", body: new URLSearchParams(form), headers: { "HX-Request": "true" } });
      if (answer.status === 422) { refused(await answer.text()); return; }
    } catch { /* said below */ }
    message("That is not a number. Type the gauge reading in figures.", true);
  }

  // Taking back what waits needs no answer to know where the pad belongs; what the server has, it says itself.
  // Derived from what waits, so that an undo the server will not take holds nothing up.
  const undoing = () => pending.some(e => e.far);
  const held = [];
  function undo() {
    const last = waitingFigures().at(-1);
    if (last) Object.assign(stand, { cylinder: last.cylinder, kind: "Reading" });
    entry("Undo", { cylinder: stand.cylinder }, { kind: "Undo", says: "Taking an entry back", far: !last });
    const column = last && document.querySelector(`.columns [data-cylinder="${last.cylinder}"]`);
    if (column) { column.classList.remove("waiting"); column.querySelector(".reading").textContent = ""; }
    force();
  }
  const soon = act => undoing() ? held.push({ value: field().value, act }) && (field().value = "") : act();

  document.addEventListener("zandrik:sent", event => {
    const { entry: e, html, refused: no } = event.detail;
    // What another step of the job had waiting is no bench.
    if (e.kind === "Step") return;
    stillPending(p => p.key !== e.key);
    if (!bench() || e.job !== Number(bench().dataset.job)) return;
    if (no) { refused(html); return; }
    // Sent as of another page: what it made of the bench is asked for.
    if (!html) { look(); release(); return; }
    const shown = html.match(/id="bench"[^>]*data-test="(\d*)"/)?.[1] ?? "";
    // Another test of the job is on the screen: it stays there.
    if (bench().dataset.test && shown !== bench().dataset.test) { message("", false); return; }
    if (e.far) {
      const to = html.match(/data-cylinder="(\d+)" data-kind/)?.[1];
      if (to) Object.assign(stand, { cylinder: Number(to), kind: "Reading" });
    }
    if (isOnItsWay()) { tellMeanwhile(html); return; }
    swap(html, e.kind);
    release();
  });
  // What was typed while an undo was on its way, done in order where the pad stands now.
  function release() {
    while (!undoing() && held.length && field()) {
      const { value, act } = held.shift();
      const typed = field().value;
      field().value = value;
      act();
      if (!held.length && field().value === "") field().value = typed;
    }
  }
  document.addEventListener("zandrik:outbox", event => {
    const { trouble, waiting } = event.detail;
    const keys = new Set(waiting.filter(e => !e.stuck).map(e => e.key));
    stillPending(p => keys.has(p.key));
    if (!bench() || !field()) return;
    if (trouble && pending.length) {
      // Nothing waits for the server now: what is held is done on what is known here.
      for (const e of pending) e.far = false;
      const last = waitingFigures().at(-1);
      message(last ? `Cylinder ${last.cylinder}: ${last.value} ${symbols[last.form.unit]} waits on this tablet.` : "Waits on this tablet.", false);
    }
    release();
    catchUp();
  });

  // What is noted about a reading waits for the network like the reading itself.
  document.addEventListener("submit", event => {
    const form = event.target.closest("[data-outbox]");
    if (!form) return;
    event.preventDefault();
    // What is sent when it changes has changed by now.
    if (form.matches("[data-change]")) { document.activeElement?.blur(); return; }
    const fields = Object.fromEntries(new FormData(form, event.submitter));
    for (const name of ["__RequestVerificationToken", "entry", "test"]) delete fields[name];
    const ofACylinder = Boolean(form.closest("#more, .repeats"));
    fields.cylinder = stand.cylinder;
    entry(form.dataset.outbox, fields, ofACylinder
      ? { kind: "Details", cylinder: stand.cylinder, says: `Cylinder ${stand.cylinder}, ${form.dataset.says ?? "what was noted"}` }
      : { kind: "How", says: `Dry, ${form.dataset.says}` });
  });
  // How it is tested goes the moment it is tapped, and only what was tapped: another one tapped meanwhile is not undone by it.
  document.addEventListener("change", event => {
    const form = event.target.closest("[data-outbox][data-change]");
    if (!form || !event.target.name) return;
    entry(form.dataset.outbox, { [event.target.name]: event.target.value, cylinder: stand.cylinder }, { kind: "How", says: `Dry, ${form.dataset.says}` });
  });

  document.addEventListener("submit", event => {
    if (!event.target.matches("[data-pad]")) return;
    event.preventDefault();
    const button = event.submitter;
    if (button?.matches("[data-undo]")) soon(undo);
    else {
      const kind = button?.value || stand.kind;
      soon(() => enter(kind));
    }
  });

  document.addEventListener("click", event => {
    const key = event.target.closest("[data-type]");
    if (!key) return;
    const input = field();
    if (key.dataset.type === "back") input.value = input.value.slice(0, -1);
    else input.value += key.dataset.type;
    input.focus({ preventScroll: true });
  });
  // A tap on a column moves the pad at once; the details come when the server answers.
  document.addEventListener("click", event => {
    const column = event.target.closest(".columns a[data-cylinder]");
    if (!column || !field()) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    soon(() => move(Number(column.dataset.cylinder)));
  }, true);

  function move(cylinder) {
    closeQuestion();
    Object.assign(stand, { cylinder, kind: "Reading" });
    message("", false);
    force();
    // The tap took the focus to the column: figures typed before the server answers belong in the pad.
    field().focus({ preventScroll: true });
    look();
  }

  const press = selector => {
    const button = document.querySelector(selector);
    if (button && !button.disabled) button.click();
    return Boolean(button);
  };

  document.addEventListener("input", event => { if (event.target === field()) closeQuestion(); });
  document.addEventListener("keydown", event => {
    const input = field();
    if (event.target !== input || event.ctrlKey || event.metaKey || event.altKey) return;
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    const acts = {
      ArrowLeft: () => soon(() => move(beside("previous"))),
      ArrowRight: () => soon(() => move(beside("next"))),
      ...(input.value === "" ? { "-": () => press("[data-again]") } : {}),
    };
    const letters = {
      r: () => press("[data-again]"),
      p: () => press("[data-first-pulse]"),
      u: () => press("[data-next-unit]"),
      z: () => press("[data-undo]"),
      t: () => { const table = document.querySelector(".numbers"); table.open = !table.open; },
      "?": () => { const help = document.getElementById("key-help"); help.open = !help.open; },
    };
    const on = document.querySelector("[data-letter-keys]")?.checked ?? true;
    const act = acts[key] ?? (on ? letters[key] : undefined);
    // Arrows move the caret while there is something to correct.
    if (key.startsWith("Arrow") && input.value !== "") return;
    if (act) { act(); event.preventDefault(); }
  });

  // Entries of this job that waited since before: the tab was closed, or the page reloaded.
  async function begin() {
    if (!bench()) return;
    if (field()) {
      fromBench();
      pending.push(...(await outbox.all()).filter(e => e.job === Number(bench().dataset.job) && e.person === outbox.person() && !e.stuck && e.kind !== "Step" && !pending.some(p => p.key === e.key)));
      if (pending.length) { stand.cylinder = isMeasured(stand.cylinder) ? nextAfter(stand.cylinder) ?? stand.cylinder : stand.cylinder; force(); }
      else place();
    }
    settle(null);
    document.documentElement.dataset.pad = "awake";
  }
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", begin);
  else begin();
})();
