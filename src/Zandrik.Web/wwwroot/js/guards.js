// The guards while no server answers: the page carries their rules (data-needs, data-makes, data-while) and where they
// stand (data-facts); what waits in the outbox is laid over that. What a rule refuses is refused here, with its
// sentence. With a server the server decides, and it decides again when the entry arrives.
window.zandrik = window.zandrik ?? {};
zandrik.guards = (() => {
  const words = text => (text ?? "").split(" ").filter(Boolean);
  const key = job => `zandrik.facts.${job}`;
  const stands = () => document.querySelector("[data-facts]");
  const isKept = () => Boolean(document.body.dataset.keptAt);
  const jobHere = () => Number(/^\/jobs\/(\d+)/.exec(location.pathname)?.[1] ?? 0);

  // The newest that a server said of this job: a page that was kept may be older than another one.
  function base() {
    const page = stands();
    let newest = { at: Number(page?.dataset.factsAt ?? 0), facts: words(page?.dataset.facts) };
    try {
      const kept = JSON.parse(localStorage.getItem(key(jobHere())) ?? "null");
      if (kept?.at > newest.at) newest = kept;
      else if (page) localStorage.setItem(key(jobHere()), JSON.stringify(newest));
    } catch { /* a browser without storage goes by its page */ }
    return new Set([...newest.facts, ...[...document.querySelectorAll("[data-facts-more]")].flatMap(e => words(e.dataset.factsMore))]);
  }
  function facts(waiting) {
    const now = base(), job = jobHere();
    for (const entry of waiting) {
      if (entry.job !== job || entry.stuck) continue;
      for (const made of words(entry.makes)) made[0] === "-" ? now.delete(made.slice(1)) : now.add(made);
    }
    return now;
  }
  const holds = (need, now) => need.split("|").some(f => f[0] === "!" ? !now.has(f.slice(1)) : now.has(f));
  const why = (element, now) => element?.dataset.needs ? JSON.parse(element.dataset.needs).find(([need]) => !holds(need, now))?.[1] ?? null : null;

  // Why this may not be done as things stand; null where it may.
  function refuses(form, button) {
    const now = facts(zandrik.outbox.now());
    return [button, button?.closest("fieldset[data-needs]"), form, ...form.querySelectorAll("fieldset[data-needs]")].reduce((said, e) => said ?? why(e, now), null);
  }

  const number = text => /^[+-]?(\d+([.,]\d*)?|[.,]\d+)$/.test(text) ? Number(text.replace(",", ".")) : NaN;
  // A figure that the server will not take is not kept either.
  function implausible(form) {
    for (const field of form.querySelectorAll("input[data-most]:not(:disabled)")) {
      const typed = number(field.value.replace(/\s/g, "")), { least, most } = field.dataset;
      if (typed >= Number(least) && typed <= Number(most)) continue;
      field.focus();
      return `${form.querySelector(`label[for="${field.id}"]`)?.textContent ?? "Figure"}: write a number from ${least} to ${most}.`;
    }
    return null;
  }
  // More oil than fits is asked about before it is noted, so that nobody pours it.
  const amount = form => "pour" in form.dataset ? number(form.elements.oil.value.trim()) * Number(form.elements.measure.selectedOptions[0].dataset.ml) : undefined;
  const isTooMuch = form => "pour" in form.dataset && inIt(form) + amount(form) > Number(form.dataset.mostMl) + 1e-9;
  function asks(form, button) {
    if (button?.matches("[data-poured]") || !isTooMuch(form)) return null;
    const there = inIt(form), { mostMl } = form.dataset, cylinder = form.dataset.pour.split("-")[1];
    form.querySelector("[data-asks-poured]").hidden = false;
    return `${Math.round((there + amount(form)) * 10) / 10} ml in cylinder ${cylinder} is more than the ${Math.floor(Number(mostMl) * 10) / 10} ml that fits safely. Do not pour it in.`;
  }
  // With what waits; after wiping nobody knows how much is left, so it counts as full.
  function inIt(form) {
    const job = jobHere();
    let ml = Number(form.dataset.inMl);
    for (const e of zandrik.outbox.now()) {
      if (e.job !== job || e.stuck) continue;
      if (e.to === form.getAttribute("action") && e.ml) ml += e.ml;
      else if (words(e.makes).includes(`-${form.dataset.pour.replace("over", "oil")}`)) ml = 0;
      else if (words(e.makes).includes(`-${form.dataset.pour}`)) ml = Math.min(ml, Number(form.dataset.mostMl));
    }
    return ml;
  }

  // What is so once this was done.
  function makes(form, button) {
    const line = button?.closest("[data-fact]");
    if (button?.matches("[data-tick-makes]")) return line.matches(".ticked") ? button.dataset.untickMakes : button.dataset.tickMakes;
    const chosen = form.querySelector("select option:checked[data-makes]");
    // By what is in it, whichever button said so: the gauge stays off.
    if (isTooMuch(form)) return `${form.dataset.makes} ${form.dataset.pour}`;
    return chosen?.dataset.makes ?? button?.dataset.makes ?? form.dataset.makes ?? (line ? (line.matches(".ticked") ? "-" : "") + line.dataset.fact : "");
  }

  // The page as it stands with what waits.
  function show(waiting) {
    const now = facts(waiting);
    for (const part of document.querySelectorAll("[data-while]")) if (part.dataset.while) part.hidden = !part.dataset.while.split(";").every(n => holds(n, now));
    // What comes next was worked out without what waits: it could be to crank an engine that has air on it by now.
    const job = jobHere();
    for (const bar of document.querySelectorAll("[data-next-bar]")) bar.hidden = waiting.some(e => e.job === job && e.makes);
    for (const e of document.querySelectorAll("[data-air-at]")) e.textContent = [...now].filter(f => /^crank-at-\d/.test(f)).map(f => ` at cylinder ${f.split("-")[2]}`).join("");
    for (const line of document.querySelectorAll("[data-fact]")) {
      const on = now.has(line.dataset.fact), tick = line.querySelector(".guard-tick");
      line.classList.toggle("ticked", on);
      tick?.setAttribute("aria-pressed", on);
      const done = line.querySelector("[data-done]") ?? (tick?.name === "done" ? tick : null);
      if (done) done.value = !on;
    }
    for (const e of document.querySelectorAll("[data-needs]:is(button, fieldset)")) e.disabled = why(e, now) !== null;
    for (const e of document.querySelectorAll("[data-true-unless]")) e.value = !e.dataset.trueUnless.split(";").every(n => holds(n, now));
    for (const e of document.querySelectorAll("[data-refusal]")) e.textContent = why(e.closest("form").querySelector("fieldset[data-needs]"), now) ?? e.textContent;
  }

  // Only where the page is behind what is known here.
  document.addEventListener("zandrik:outbox", event => {
    if (!stands()) return;
    const { trouble, waiting } = event.detail;
    const me = zandrik.outbox.person();
    if (isKept() || (trouble && waiting.some(e => e.makes))) show(waiting.filter(e => e.person === me));
  });
  document.addEventListener("zandrik:shown", base);
  addEventListener("DOMContentLoaded", base);
  return { refuses, implausible, asks, amount, makes, show };
})();
