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

  // Fingers are faster than a patchy network. While an entry is on its way its form still names the old
  // cylinder, so nothing is sent from it: what is typed meanwhile waits, and is done in order on the
  // bench that comes back.
  let busy = false;
  let sent = "";           // the figure that is on its way
  let started = "";        // digits typed since, not entered yet
  const waiting = [];      // entries made since: { value, act }

  const hold = act => {
    waiting.push({ value: field().value, act });
    field().value = "";
  };
  function goOn() {
    busy = false;
    const input = field();
    // A figure that was refused is put right first.
    if (!input || input.value !== "" || document.querySelector(".pad-field.has-problem")) return;
    const next = waiting.shift();
    if (next) {
      input.value = next.value;
      next.act();
    } else {
      input.value = started;
      started = "";
    }
  }
  document.addEventListener("click", event => {
    const button = event.target.closest("[data-pad] button:not([type=button])");
    if (!button || !busy) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    const name = ["data-again", "data-first-pulse", "data-undo"].find(n => button.hasAttribute(n)) ?? "data-enter";
    hold(() => press(`[${name}]`));
  }, true);

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

  const move = way => busy ? hold(() => move(way)) : go(document.getElementById("bench").dataset[way]);

  document.addEventListener("keydown", event => {
    const input = field();
    if (event.target !== input || event.ctrlKey || event.metaKey || event.altKey) return;
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    const acts = {
      ArrowLeft: () => move("previous"),
      ArrowRight: () => move("next"),
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

  document.addEventListener("htmx:before:request", event => {
    focused = { name: document.activeElement?.tagName === "SELECT" ? document.activeElement.name : null };
    const input = field();
    busy = true;
    // Only an entry takes the figure along; a half-typed one outlives a change of unit or an undo.
    const entry = event.detail.ctx.sourceElement.matches("[data-pad]");
    sent = entry ? input.value : "";
    // The request has its figure already: the field is free for the next one.
    if (entry) queueMicrotask(() => { input.value = started; started = ""; });
  });
  document.addEventListener("htmx:before:swap", () => { if (busy && field()) started = field().value; });
  document.addEventListener("htmx:after:swap", () => {
    settle(focused);
    goOn();
  });
  const notKept = says => {
    const message = document.getElementById("pad-message");
    if (!message) return;
    busy = false;
    if (sent !== "") {
      started = field().value;
      field().value = sent;
    }
    message.className = "field-problem";
    message.textContent = says;
  };
  document.addEventListener("htmx:error", () =>
    notKept("Not sent: the server does not answer. What you typed is still here; press Enter again when it is back."));
  document.addEventListener("htmx:response:error", event => {
    const status = event.detail.ctx.response.status;
    if (status >= 500) notKept("Not kept: the server is in trouble. What you typed is still here; press Enter again in a moment.");
    else if (status !== 422) notKept("Not kept: this page is too old or the job is gone. Note the figure, reload the page and enter it again.");
  });
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", () => settle(null));
  else settle(null);
})();
