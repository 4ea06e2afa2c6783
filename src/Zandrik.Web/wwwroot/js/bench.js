// The bench on the screen: what the server sent, with where the pad stands on this screen and what waits written
// over it; swapped with every answer and with what others do, and nothing that is in somebody's hand is taken away.
(() => {
  const bench = () => document.getElementById("bench");
  const field = () => document.getElementById("pad-value");
  const outbox = zandrik.outbox;
  const touch = matchMedia("(pointer: coarse)").matches;
  const lettersKey = "zandrik.letters", cautionKey = "zandrik.caution.";

  // The browser may refuse storage; the pad works without.
  const remember = (key, value) => { try { localStorage.setItem(key, value); } catch { /* as above */ } };
  const recall = key => { try { return localStorage.getItem(key); } catch { return null; } };
  const numbers = text => (text ?? "").split(" ").filter(Boolean).map(Number);

  // Where the pad stands on this screen.
  const stand = { cylinder: 0, kind: "Reading", unit: "psi" };
  // Entries of this job that the server has not answered yet, oldest first.
  const pending = [];
  const stillPending = isStill => pending.splice(0, pending.length, ...pending.filter(isStill));
  const open = {};

  const fromBench = () => Object.assign(stand, { cylinder: Number(bench().dataset.cylinder), kind: bench().dataset.kind, unit: bench().dataset.unit });

  // What waits, as it will stand once it is there: an undo takes the entry before it away.
  function waitingFigures() {
    const shown = [];
    for (const e of pending) {
      if (e.kind === "Undo") shown.pop();
      else if (e.kind !== "Details" && e.kind !== "How") shown.push(e);
    }
    return shown;
  }
  const isMeasured = cylinder => numbers(bench().dataset.measured).includes(cylinder)
    || waitingFigures().some(e => e.cylinder === cylinder && e.kind !== "FirstPulse");

  function nextAfter(cylinder) {
    const order = numbers(bench().dataset.order);
    const from = order.indexOf(cylinder);
    for (let step = 1; step <= order.length; step++) {
      const c = order[(from + step) % order.length];
      if (!isMeasured(c)) return c;
    }
    return null;
  }
  const symbols = { psi: "psi", bar: "bar", kPa: "kPa", "kgf/cm2": "kgf/cm²" };

  // What is noted belongs to one reading: a cylinder measured again starts with nothing noted, and what is typed
  // there goes with the figure.
  function placeNotes(cylinder, kind) {
    const more = document.getElementById("more");
    if (!more) return;
    more.hidden = Number(more.dataset.cylinder) !== cylinder || kind === "FirstPulse";
    if (more.hidden || kind !== "Repeat" || more.dataset.blank) return;
    more.dataset.blank = "true";
    for (const input of more.querySelectorAll("input:not([type=hidden])")) input.value = input.defaultValue = "";
    for (const old of more.querySelectorAll("svg, .button-row")) old.hidden = true;
  }

  // Puts the pad where it stands, over whatever the server thought when it sent the bench.
  function place() {
    const input = field();
    if (!input) return;
    const { cylinder, kind, unit } = stand;
    const same = cylinder === Number(bench().dataset.cylinder) && kind === bench().dataset.kind;
    const measured = isMeasured(cylinder);
    // Figures that wait stand in the picture, marked as such; they are judged when they are there.
    for (const e of waitingFigures()) {
      if (e.kind === "FirstPulse") continue;
      const column = document.querySelector(`.columns [data-cylinder="${e.cylinder}"]`);
      if (!column) continue;
      column.classList.add("waiting");
      column.querySelector(".reading").textContent = e.value;
      column.setAttribute("aria-label", `Cylinder ${e.cylinder} ${e.value} ${symbols[e.form.unit]}, waiting`);
    }
    if (!same) {
      const what = kind === "Repeat" ? "Again" : kind === "FirstPulse" ? "First pulse" : "Dry";
      document.getElementById("pad-title").textContent = `${what} · cylinder ${cylinder}`;
      document.querySelector("[data-pad-label]").textContent = `${kind === "FirstPulse" ? "First pulse" : "Reading"} of cylinder ${cylinder} in ${symbols[unit]}`;
      const column = document.querySelector(`.columns [data-cylinder="${cylinder}"] .reading`);
      document.querySelector("[data-corrects]").textContent = measured && kind === "Reading" ? `corrects ${column?.textContent ?? ""}` : "";
      for (const c of document.querySelectorAll(".columns [data-cylinder]")) {
        const selected = Number(c.dataset.cylinder) === cylinder;
        c.classList.toggle("selected", selected);
        selected ? c.setAttribute("aria-current", "true") : c.removeAttribute("aria-current");
      }
      for (const old of document.querySelectorAll(".repeats, .unticked")) old.hidden = true;
      placeNotes(cylinder, kind);
      for (const hidden of bench().querySelectorAll('form:not([data-choice]) input[name="cylinder"]'))
        if (!hidden.closest(".repeats")) hidden.value = cylinder;
      const next = nextAfter(cylinder);
      const enter = document.querySelector("[data-enter]");
      enter.firstChild.textContent = kind === "Reading" && next && next !== cylinder ? `Next: ${next}` : "Save";
    }
    document.querySelector("[data-again]").disabled = !measured;
    for (const button of document.querySelectorAll("#pad [data-enter], #pad > button[name=kind]")) button.value = kind;
    document.querySelector('#pad input[name="unit"]').value = unit;
    document.querySelector(".pad-unit").textContent = symbols[unit];
  }

  // After a new bench: keep what was folded away folded, and the caret where it was.
  function settle(focusName) {
    const input = field();
    const letters = document.querySelector("[data-letter-keys]");
    if (letters) letters.checked = recall(lettersKey) !== "off";
    for (const caution of document.querySelectorAll("[data-caution]"))
      caution.open = recall(cautionKey + caution.dataset.caution) !== "read";
    for (const id in open) {
      const part = document.querySelector(id);
      if (part) part.open = open[id];
    }
    if (!input) return;
    // The pad is the keyboard on a tablet; the system's own would cover it.
    if (touch) input.inputMode = "none";
    const again = focusName && bench().querySelector(`select[name="${focusName}"]`);
    if (again) { again.focus(); return; }
    if (document.activeElement !== document.body && document.activeElement !== input && !bench().contains(document.activeElement)) return;
    input.focus({ preventScroll: true });
    input.setSelectionRange(input.value.length, input.value.length);
  }
  const focusName = () => document.activeElement?.tagName === "SELECT" ? document.activeElement.name : null;

  const benchIn = html => new DOMParser().parseFromString(html, "text/html").getElementById("bench");
  // How many benches took the place of another, so that an answer knows whether it is late.
  let swaps = 0;
  function put(fresh) {
    const element = document.importNode(fresh, true);
    swaps++;
    bench().replaceWith(element);
    htmx.process(element);
  }
  // Fields beside the pad's own, each by its form and, for what is noted about a reading, its cylinder.
  const besides = () => [...bench().querySelectorAll("form input:not([type=hidden], [type=checkbox], #pad-value)")].map(e => [`${e.form.getAttribute("action")} ${e.name} ${e.form.dataset.outbox ? e.form.elements.cylinder.value : ""}`, e]);
  // A bench from the server takes the place of the old one; the pad stays where the hand is, and what is half typed stays typed.
  function swap(html, sent) {
    const fresh = benchIn(html);
    if (!fresh) return;
    const typed = field()?.value ?? "", focus = focusName(), act = bench().contains(document.activeElement) ? document.activeElement.dataset.do : null;
    // What is hidden by now belongs to the cylinder before.
    const half = sent === "Details" ? [] : besides().filter(([, e]) => (e.value !== e.defaultValue || e.matches("[aria-invalid=true]")) && !e.closest("[hidden]")).map(([key, e]) => [key, e.value]);
    const question = document.getElementById("pad-ask");
    put(fresh);
    // A gauge that was chosen before the first reading brings its unit along.
    if (sent === "How") stand.unit = bench().dataset.unit;
    place();
    // What is being asked about the figure in the pad is still asked.
    if (question) document.querySelector(".pad-line")?.after(question);
    for (const [key, e] of half.length ? besides() : []) e.value = half.find(([k]) => k === key)?.[1] ?? e.value;
    if (field()) field().value = typed;
    settle(focus);
    // Without a pad, as at the practice bench, the hand is at what is done next.
    if (act) bench().querySelector(`[data-do="${act}"]:not(:disabled)`)?.focus({ preventScroll: true });
  }

  const message = (text, bad) => {
    const line = document.getElementById("pad-message");
    if (!line) return;
    line.className = bad ? "field-problem" : "pad-hint";
    line.textContent = text;
  };

  // The bench on the screen is older than where the pad stands now: write the difference into it.
  function force() {
    bench().dataset.cylinder = "";
    place();
  }

  function refused(html) {
    const fresh = benchIn(html);
    if (!fresh) return;
    put(fresh);
    fromBench();
    place();
    settle(null);
  }

  // What others do on this job: look again, unless it is on the screen already.
  let wanted = 0, looking = false;
  // While a form of the bench is on its way, the bench it will come back to must stay: nothing else is swapped.
  let onItsWay = -Infinity;
  const isOnItsWay = () => performance.now() - onItsWay < 20000;
  // What came of an entry meanwhile: said at once, and again on the bench that comes back.
  let told = null;
  function tellMeanwhile(html) {
    told = benchIn(html)?.querySelector("#pad-message")?.textContent ?? "";
    message(told, false);
    look();
  }
  // A list that is open under somebody's finger is not pulled away, nor a form that says what is wrong with what was typed.
  const isAtAField = () => document.getElementById("pad-ask") || document.activeElement?.matches("#bench select, #bench textarea, #bench input:not(#pad-value)") || document.querySelector("#bench .field-problem:not(#pad-message)");
  async function catchUp() {
    if (!wanted || looking || !bench() || isOnItsWay()) return;
    if (pending.length && !outbox.trouble) return;
    if (isAtAField()) return;
    if (wanted !== true && wanted <= Number(bench().dataset.row)) { wanted = 0; return; }
    looking = true;
    wanted = 0;
    try {
      const b = bench(), before = swaps;
      const answer = await fetch(`${b.dataset.address}?${b.dataset.test ? `test=${b.dataset.test}&` : ""}cylinder=${stand.cylinder}`, { headers: { "HX-Request": "true" } });
      const html = await answer.text();
      await outbox.lifted();
      // Asked for before the bench that is shown now: it does not know what was kept meanwhile.
      if (isOnItsWay() || swaps !== before || isAtAField()) wanted = true;
      else if (answer.ok) {
        const line = document.getElementById("pad-message");
        swap(html);
        if (line) document.getElementById("pad-message")?.replaceWith(line);
      }
    } catch { /* the stream says when the network is back */ }
    looking = false;
    catchUp();
  }
  // Looks again at what stands on the server, as soon as nothing is in the way.
  function look() {
    wanted = true;
    catchUp();
  }
  document.addEventListener("focusout", () => setTimeout(catchUp));
  if (bench()?.dataset.live) {
    let first = true;
    zandrik.live.follow(Number(bench().dataset.job), bench().dataset.live,
      () => { outbox.drain(); if (!first) look(); first = false; },
      row => {
        wanted = row === 0 || wanted === true ? true : Math.max(wanted, row);
        catchUp();
      });
  }

  document.addEventListener("toggle", event => {
    const part = event.target;
    if (part.dataset?.caution) remember(cautionKey + part.dataset.caution, part.open ? "open" : "read");
    else if (part.id === "key-help" || part.id === "more") open[`#${part.id}`] = part.open;
    else if (part.classList?.contains("numbers")) open[".numbers"] = part.open;
    else if (part.classList?.contains("changes")) open[".changes"] = part.open;
  }, true);

  document.addEventListener("change", event => {
    if (event.target.matches("[data-letter-keys]")) remember(lettersKey, event.target.checked ? "on" : "off");
  });

  // The other forms of the bench go by htmx. A change of unit holds for what is typed from now on.
  document.addEventListener("click", event => {
    const unit = event.target.closest(".units button[name=unit]");
    if (!unit || !field()) return;
    stand.unit = unit.value;
    armed = { ...stand };
    place();
    field().focus({ preventScroll: true });
  });
  // What the pad was set to when its unit was changed: "again" outlives that.
  let armed = null;
  let typed = "", before = null;
  const isOfTheBench = event => bench()?.contains(event.detail?.ctx?.sourceElement ?? event.target);
  document.addEventListener("htmx:before:request", event => {
    before = focusName();
    if (isOfTheBench(event)) onItsWay = performance.now();
  });
  const isBack = () => { onItsWay = -Infinity; setTimeout(() => { typeHeld(); catchUp(); }); };
  for (const name of ["htmx:after:swap", "htmx:error", "htmx:response:error"]) document.addEventListener(name, isBack);
  // A key that comes while one bench takes the place of the other belongs to neither: it is held, and typed into the new one.
  let between = null;
  document.addEventListener("htmx:before:swap", () => {
    typed = field()?.value ?? "";
    if (!field() || document.activeElement !== field()) return;
    between = [];
    // A swap that never comes must not hold keys for ever.
    setTimeout(typeHeld, 1000);
  });
  document.addEventListener("keydown", event => {
    if (!between || event.ctrlKey || event.metaKey || event.altKey || !/^([0-9.,]|Backspace|Enter)$/.test(event.key)) return;
    between.push(event.key);
    event.preventDefault();
    event.stopImmediatePropagation();
  }, true);
  function typeHeld() {
    const keys = between ?? [];
    between = null;
    for (const key of field() ? keys : []) {
      if (key === "Enter") field().form.requestSubmit();
      else field().value = key === "Backspace" ? field().value.slice(0, -1) : field().value + key;
    }
  }
  document.addEventListener("htmx:after:swap", () => {
    if (!bench()) return;
    swaps++;
    fromBench();
    if (armed) Object.assign(stand, { cylinder: armed.cylinder, kind: armed.kind });
    armed = null;
    place();
    if (field()) field().value = typed;
    if (told) message(told, false);
    told = null;
    settle(before);
    typeHeld();
    catchUp();
  });
  const notDone = says => { told = null; if (field()) { message(says, true); stand.unit = bench().dataset.unit; place(); } };
  // A list shows what is so, not what was wanted; what was typed stays.
  function showAsItIs(event) {
    for (const list of (event.detail?.ctx?.sourceElement ?? event.target).querySelectorAll?.("#bench select") ?? [])
      for (const option of list.options) option.selected = option.defaultSelected;
  }
  document.addEventListener("htmx:error", event => {
    showAsItIs(event);
    notDone("Not changed: the server does not answer. Readings can be typed; the rest when it is back.");
  });
  document.addEventListener("htmx:response:error", event => {
    showAsItIs(event);
    const status = event.detail.ctx.response.status;
    if (status === 401) notDone("You are signed out: reload the page to sign in. Readings that wait stay here.");
    else if (status >= 500) notDone("Not changed: the server is in trouble. Try again in a moment.");
    else if (status !== 422) notDone("Not changed: this page is too old or the job is gone. Reload it.");
  });

  zandrik.bench = {
    bench, field, numbers, symbols, stand, pending, stillPending, waitingFigures, isMeasured, nextAfter,
    fromBench, place, force, swap, refused, settle, message, isOnItsWay, tellMeanwhile, look, catchUp,
  };
})();
