// The pad: keys for a keyboard, buttons for a glove. Without this script its form still posts.
(() => {
  const field = () => document.getElementById("pad-value");
  const touch = matchMedia("(pointer: coarse)").matches;
  const lettersKey = "zandrik.letters", cautionKey = "zandrik.caution.";

  // The browser may refuse storage; the pad works without.
  const remember = (key, value) => { try { localStorage.setItem(key, value); } catch { /* as above */ } };
  const recall = key => { try { return localStorage.getItem(key); } catch { return null; } };

  // Each swap brings a new bench: put the caret back, and keep what was folded away folded.
  function settle(restore) {
    const input = field();
    if (!input) return;
    // The pad is the keyboard on a tablet; the system's own would cover it.
    if (touch) input.inputMode = "none";
    const letters = document.querySelector("[data-letter-keys]");
    if (letters) letters.checked = recall(lettersKey) !== "off";
    for (const caution of document.querySelectorAll("[data-caution]"))
      caution.open = recall(cautionKey + caution.dataset.caution) !== "read";
    for (const id in open) {
      const part = document.querySelector(id);
      if (part) part.open = open[id];
    }
    if (restore && restore.name) {
      const again = document.querySelector(`select[name="${restore.name}"]`);
      if (again) { again.focus(); return; }
    }
    input.focus({ preventScroll: true });
    input.setSelectionRange(input.value.length, input.value.length);
  }
  const open = {};
  let focused = null;

  document.addEventListener("toggle", event => {
    const part = event.target;
    if (part.dataset?.caution) remember(cautionKey + part.dataset.caution, part.open ? "open" : "read");
    else if (part.id === "key-help") open["#key-help"] = part.open;
    else if (part.classList?.contains("numbers")) open[".numbers"] = part.open;
  }, true);

  document.addEventListener("change", event => {
    if (event.target.matches("[data-letter-keys]")) remember(lettersKey, event.target.checked ? "on" : "off");
  });

  document.addEventListener("click", event => {
    const key = event.target.closest("[data-type]");
    if (!key) return;
    const input = field();
    if (key.dataset.type === "back") input.value = input.value.slice(0, -1);
    else input.value += key.dataset.type;
    input.focus({ preventScroll: true });
  });

  const press = selector => {
    const button = document.querySelector(selector);
    if (button && !button.disabled) button.click();
    return Boolean(button);
  };
  const go = address => htmx.ajax("GET", address, { target: "#bench", swap: "outerHTML" });

  document.addEventListener("keydown", event => {
    const input = field();
    if (event.target !== input || event.ctrlKey || event.metaKey || event.altKey) return;
    const bench = document.getElementById("bench");
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    const acts = {
      ArrowLeft: () => go(bench.dataset.previous),
      ArrowRight: () => go(bench.dataset.next),
      "-": () => press("[data-again]"),
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

  document.addEventListener("htmx:before:request", () => {
    focused = { name: document.activeElement?.tagName === "SELECT" ? document.activeElement.name : null };
  });
  document.addEventListener("htmx:after:swap", () => settle(focused));
  document.addEventListener("htmx:error", () => {
    const message = document.getElementById("pad-message");
    if (!message) return;
    message.className = "field-problem";
    message.textContent = "Not sent: the server does not answer. What you typed is still here; press Enter again when it is back.";
  });
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", () => settle(null));
  else settle(null);
})();
