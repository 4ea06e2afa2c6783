// Where the air goes: what a slider stands at is said at once; what the model reads then comes from the server.
(() => {
  const digits = mm2 => mm2 < 1 ? 2 : mm2 < 10 ? 1 : 0;
  document.addEventListener("input", event => {
    const slider = event.target.closest(".air-slider input");
    if (!slider) return;
    const out = slider.parentElement.querySelector("output"), at = Number(slider.value);
    const [least, most] = (out.dataset.area ?? "").split(" ").map(Number);
    const mm2 = at === 0 ? 0 : least * (most / least) ** (at / Number(slider.max));
    out.textContent = "area" in out.dataset ? at === 0 ? "none" : `${mm2.toFixed(digits(mm2))} mm²` : `${at}${out.dataset.unit}`;
  });
})();
