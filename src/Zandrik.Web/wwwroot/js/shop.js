// Night colours: a choice is remembered in a cookie, so that the server sends the page in them. Whoever chooses what
// the system says follows the system again.
const sayTheme = () => {
  const dark = document.documentElement.dataset.bsTheme === "dark";
  for (const button of document.querySelectorAll("[data-theme-switch]")) button.setAttribute("aria-pressed", String(dark));
};
document.addEventListener("DOMContentLoaded", () => {
  sayTheme();
  new MutationObserver(sayTheme).observe(document.documentElement, { attributes: true, attributeFilter: ["data-bs-theme"] });
});
document.addEventListener("click", event => {
  if (!event.target.closest("[data-theme-switch]")) return;
  const root = document.documentElement;
  const dark = root.dataset.bsTheme !== "dark";
  const system = dark === matchMedia("(prefers-color-scheme: dark)").matches;
  root.dataset.bsTheme = dark ? "dark" : "light";
  root.dataset.colours = system ? "system" : "chosen";
  document.cookie = `zandrik.theme=${dark ? "dark" : "light"};path=/;max-age=${system ? 0 : 31536000};samesite=lax`;
});

// A page that Back brings out of the browser's memory may be long past, or somebody else's by now: asked for anew.
addEventListener("pageshow", event => { if (event.persisted) location.reload(); });

// What takes a while says so, and is not sent twice.
document.addEventListener("submit", event => {
  const button = event.submitter;
  if (!button?.dataset.working) return;
  setTimeout(() => { button.disabled = true; button.textContent = button.dataset.working; button.setAttribute("aria-busy", "true"); });
});

// A long password typed with cold hands is looked at before it is sent; what is sent is hidden again, so that a browser
// keeps it for nothing else.
document.addEventListener("DOMContentLoaded", () => {
  for (const form of document.forms) {
    const secret = [...form.querySelectorAll("input[type=password]")];
    if (secret.length === 0) continue;
    const show = Object.assign(document.createElement("input"), { type: "checkbox", className: "form-check-input", id: `${secret[0].id}-shown` });
    const label = Object.assign(document.createElement("label"), { className: "form-check-label", htmlFor: show.id, textContent: "Show what I type" });
    const line = Object.assign(document.createElement("div"), { className: "form-check show-typed" });
    line.append(show, label);
    secret.at(-1).closest(".field").after(line);
    const set = () => { for (const input of secret) input.type = show.checked ? "text" : "password"; };
    show.addEventListener("change", set);
    form.addEventListener("submit", () => { show.checked = false; set(); });
  }
});

// A filter that is chosen is shown at once.
document.addEventListener("change", event => {
  if (event.target.matches("[data-submit]")) event.target.form.submit();
});

// What a small screen folds away: the menu, the steps of the job, what the job is about. The name of what is folded
// stands in aria-controls; what is open stays open when the page is shown anew under it.
const unfolded = new Set();
const showFolds = () => {
  for (const fold of document.querySelectorAll("[data-fold]")) {
    const is = String(unfolded.has(fold.getAttribute("aria-controls")));
    if (fold.getAttribute("aria-expanded") !== is) fold.setAttribute("aria-expanded", is);
  }
};
document.addEventListener("click", event => {
  const about = event.target.closest("#job-about");
  const fold = event.target.closest("[data-fold]") ?? (about && document.querySelector('[data-fold][aria-controls~="job-about"]'));
  if (!fold || !fold.checkVisibility()) return;
  event.preventDefault();
  const name = fold.getAttribute("aria-controls");
  if (!unfolded.delete(name)) unfolded.add(name);
  showFolds();
});
document.addEventListener("DOMContentLoaded", () => new MutationObserver(showFolds).observe(document.getElementById("main"), { childList: true, subtree: true }));

// What the finder found goes away with a click elsewhere, or Escape; arrows walk through it.
document.addEventListener("keydown", event => {
  const finder = event.target.closest?.(".finder");
  if (!finder) return;
  const found = [...finder.querySelectorAll("a")];
  const at = found.indexOf(document.activeElement);
  if (event.key === "Escape") { document.getElementById("finder-found").replaceChildren(); document.getElementById("finder").focus(); }
  else if (event.key === "ArrowDown" && found.length) { event.preventDefault(); found[Math.min(at + 1, found.length - 1)].focus(); }
  else if (event.key === "ArrowUp" && at >= 0) { event.preventDefault(); (found[at - 1] ?? document.getElementById("finder")).focus(); }
});
document.addEventListener("click", event => {
  if (!event.target.closest(".finder")) document.getElementById("finder-found")?.replaceChildren();
});

document.addEventListener("click", event => {
  if (event.target.closest("[data-print]")) print();
});
// Paper is white: printed from night colours a page comes out in those of the day.
{
  const root = document.documentElement;
  let shown = null;
  addEventListener("beforeprint", () => { shown ??= root.dataset.bsTheme; root.dataset.bsTheme = "light"; });
  addEventListener("afterprint", () => { root.dataset.bsTheme = shown ?? "light"; shown = null; });
}

// A group of chips is one stop for the keyboard: arrows walk within it, the space bar ticks.
const chipsOf = group => [...group.querySelectorAll("input[type=checkbox]")];
const showStops = () => {
  for (const group of document.querySelectorAll("[data-roving]")) {
    const chips = chipsOf(group);
    const at = chips.find(c => c === document.activeElement) ?? chips.find(c => c.tabIndex === 0 && c.dataset.stop) ?? chips[0];
    for (const c of chips) { c.tabIndex = c === at ? 0 : -1; if (c === at) c.dataset.stop = "true"; else delete c.dataset.stop; }
  }
};
document.addEventListener("DOMContentLoaded", showStops);
document.addEventListener("htmx:after:swap", showStops);
document.addEventListener("focusin", event => { if (event.target.closest?.("[data-roving]")) showStops(); });
document.addEventListener("keydown", event => {
  const group = event.target.closest?.("[data-roving]");
  const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
  if (!group || !step || !event.target.matches("input[type=checkbox]")) return;
  event.preventDefault();
  const chips = chipsOf(group);
  chips[(chips.indexOf(event.target) + step + chips.length) % chips.length].focus();
});

// An engine that is filled in from the vehicle's last job never takes away what was typed of it meanwhile.
document.addEventListener("htmx:before:swap", event => {
  const engine = document.getElementById("engine");
  if (event.target.id !== "vehicle" && event.detail?.ctx?.sourceElement?.id !== "vehicle") return;
  const typed = e => e.type === "checkbox" ? e.checked !== e.defaultChecked : e.tagName === "SELECT" ? [...e.options].some(o => o.selected !== o.defaultSelected) && e.selectedIndex > 0 : e.value !== e.defaultValue;
  // Nor does it come under a hand that is there already.
  if (engine && (engine.contains(document.activeElement) || [...engine.querySelectorAll("input, select")].some(typed))) event.preventDefault();
});

// The time zone of a new shop is most likely that of the machine it is set up on.
document.addEventListener("DOMContentLoaded", () => {
  const zone = document.querySelector("[data-own-zone]");
  const own = Intl.DateTimeFormat().resolvedOptions().timeZone;
  if (zone && (zone.value === "Etc/UTC" || zone.value === "") && own?.includes("/")) zone.value = own;
});

// The tour: what it speaks of is framed and in view; arrows walk through it as its buttons do, Escape ends it.
document.addEventListener("DOMContentLoaded", () => {
  const tour = document.querySelector("[data-tour]");
  if (!tour) return;
  const part = tour.dataset.tour && [...document.querySelectorAll(tour.dataset.tour)].find(e => e.checkVisibility());
  if (part) {
    part.classList.add("on-tour");
    if (part.getBoundingClientRect().bottom > innerHeight - tour.offsetHeight) part.scrollIntoView({ block: "start" });
  }
  document.addEventListener("keydown", event => {
    if (event.target.closest?.("input, select, textarea, [data-pad]") || event.altKey || event.ctrlKey || event.metaKey) return;
    const links = [...tour.querySelectorAll("a")];
    const to = { ArrowRight: tour.querySelector("[data-tour-next]"), ArrowLeft: links.find(l => l.textContent === "Back"), Escape: links.at(-1) }[event.key];
    if (to) to.click();
  });
});

// A part of a page that is replaced takes its live region with it, and nothing is read out. So one line stays, and says
// what the page says of the last thing that was done.
document.addEventListener("DOMContentLoaded", () => {
  const said = document.getElementById("said");
  const main = document.getElementById("main");
  const line = () => main.querySelector("#pad-message:not(:empty), [data-says][data-told], .done-note");
  let words = line()?.textContent.trim() ?? "";
  new MutationObserver(() => {
    const text = line()?.textContent.trim() ?? "";
    if (text === words) return;
    words = text;
    if (text) said.textContent = text;
  }).observe(main, { childList: true, subtree: true, characterData: true });
});
