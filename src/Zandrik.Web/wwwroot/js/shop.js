// Night colours: remembered in a cookie, so that the server sends the page in them and nothing flashes.
document.addEventListener("click", event => {
  const button = event.target.closest("[data-theme-switch]");
  if (!button) return;
  const dark = document.documentElement.dataset.bsTheme !== "dark";
  document.documentElement.dataset.bsTheme = dark ? "dark" : "light";
  button.setAttribute("aria-pressed", String(dark));
  document.cookie = `zandrik.theme=${dark ? "dark" : "light"};path=/;max-age=31536000;samesite=lax`;
});

// A page that Back brings out of the browser's memory may be long past, or somebody else's by now: asked for anew.
addEventListener("pageshow", event => { if (event.persisted) location.reload(); });

// A filter that is chosen is shown at once.
document.addEventListener("change", event => {
  if (event.target.matches("[data-submit]")) event.target.form.submit();
});

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
