// Night colours: remembered in a cookie, so that the server sends the page in them and nothing flashes.
document.addEventListener("click", event => {
  const button = event.target.closest("[data-theme-switch]");
  if (!button) return;
  const dark = document.documentElement.dataset.bsTheme !== "dark";
  document.documentElement.dataset.bsTheme = dark ? "dark" : "light";
  button.setAttribute("aria-pressed", String(dark));
  document.cookie = `zandrik.theme=${dark ? "dark" : "light"};path=/;max-age=31536000;samesite=lax`;
});
