// Night colours follow the system until somebody chooses. Asked in the head, before anything is drawn: nothing flashes.
{
  const root = document.documentElement;
  const night = matchMedia("(prefers-color-scheme: dark)");
  const follow = () => { if (root.dataset.colours === "system") root.dataset.bsTheme = night.matches ? "dark" : "light"; };
  follow();
  night.addEventListener("change", follow);
}
