// A gauge that moves: on the practice bench as the simulated engine was cranked, at the engine as an instrument shows it.
// Whatever the needle does is said in digits and words beside it; sound comes on top, for whoever wants it.
(() => {
  const remember = (name, value) => { try { localStorage.setItem(name, value); } catch { /* a browser that keeps nothing */ } };
  const recall = name => { try { return localStorage.getItem(name); } catch { return null; } };
  const soundKey = "zandrik.sound", onceKey = "zandrik.at-once";
  const panel = () => document.querySelector("[data-gauge-panel]");
  const wantsSound = () => recall(soundKey) === "on";
  const atOnce = () => recall(onceKey) === "on" || matchMedia("(prefers-reduced-motion: reduce)").matches;

  function switches() {
    for (const box of document.querySelectorAll("[data-sound]")) box.checked = wantsSound();
    for (const box of document.querySelectorAll("[data-at-once]")) box.checked = recall(onceKey) === "on";
  }
  document.addEventListener("change", event => {
    if (event.target.matches("[data-sound]")) { remember(soundKey, event.target.checked ? "on" : "off"); if (!event.target.checked) sound.stop(); }
    if (event.target.matches("[data-at-once]")) remember(onceKey, event.target.checked ? "on" : "off");
  });

  // The needle and its figure.
  function show(pascals, count) {
    const dial = panel()?.querySelector("[data-dial]");
    if (!dial) return;
    const sweep = Number(dial.dataset.sweep), share = Math.min(1.04, Math.max(0, pascals / Number(dial.dataset.full)));
    dial.querySelector("[data-needle]").setAttribute("transform", `rotate(${(-sweep + 2 * sweep * share).toFixed(2)} 150 138)`);
    panel().querySelector("[data-gauge-figure]").textContent = (pascals / Number(dial.dataset.pa)).toFixed(Number(dial.dataset.digits));
    const line = panel().querySelector("[data-gauge-count]");
    if (line) line.textContent = count ? `after ${count} compression${count === 1 ? "" : "s"}` : "";
  }
  // What was said stays to be read when the page is shown anew under it.
  let said = { text: "", bad: false };
  const say = (text, bad) => {
    said = { text, bad: Boolean(bad) };
    const line = panel()?.querySelector("[data-gauge-says]");
    if (!line) return;
    line.textContent = text;
    line.classList.toggle("field-problem", said.bad);
  };
  function again() {
    switches();
    const line = panel()?.querySelector("[data-gauge-says]");
    if (line && said.text && !line.textContent) say(said.text, said.bad);
  }

  // Sound: the starter and each compression from where the crank was, air from how loud it is there.
  const sound = (() => {
    let context = null, playing = [];
    const begin = () => { context ??= new AudioContext(); context.resume(); return context; };
    const stop = () => { for (const s of playing.splice(0)) try { s.stop(); } catch { /* over already */ } };
    function play(buffer, volume) {
      const c = begin(), source = c.createBufferSource(), gain = c.createGain();
      source.buffer = buffer;
      gain.gain.value = volume;
      source.connect(gain).connect(c.destination);
      source.start();
      playing.push(source);
    }
    // A starter whines with the speed of the crank; a compression slows it and ends in a puff.
    function crank(interval, turns, pascals) {
      const c = begin(), rate = 11025, seconds = interval * turns.length, buffer = c.createBuffer(1, Math.max(1, Math.round(seconds * rate)), rate), out = buffer.getChannelData(0);
      let phase = 0;
      for (let i = 0; i < out.length; i++) {
        const t = i / rate / interval, k = Math.min(turns.length - 2, Math.floor(t));
        const angle = turns[k] + (turns[k + 1] - turns[k]) * Math.min(1, t - k), speed = Math.max(0, (turns[k + 1] - turns[k]) / interval);
        phase += speed * 9 / rate;
        const cycle = (angle / (4 * Math.PI)) % 1, puff = Math.exp(-((cycle - 0.72) ** 2) / 0.0012) * Math.min(1, pascals[k] / 1e6);
        out[i] = 0.16 * (2 * (phase % 1) - 1) * Math.min(1, speed / 20) + 0.5 * puff * (Math.random() * 2 - 1);
      }
      play(buffer, 0.5);
      return seconds;
    }
    // A hiss of two seconds, as loud as the air that goes there.
    function hiss(db) {
      if (db < 0) return;
      const c = begin(), rate = 22050, buffer = c.createBuffer(1, 2 * rate, rate), out = buffer.getChannelData(0);
      let low = 0;
      for (let i = 0; i < out.length; i++) {
        const white = Math.random() * 2 - 1;
        low += 0.25 * (white - low);
        out[i] = (white - low) * Math.min(1, i / 2000, (out.length - i) / 4000);
      }
      play(buffer, Math.min(0.6, 0.02 * 10 ** (db / 20)));
    }
    return { crank, hiss, stop };
  })();

  // The needle as it was, in the time it took; a tap on the dial, or Escape, shows the end of it.
  let skip = () => {};
  function play({ interval, pa, turns, pulses }) {
    const passed = pascals => pulses.filter(p => p <= pascals + 1).length;
    if (atOnce()) { show(pa.at(-1), pulses.length); return Promise.resolve(); }
    if (wantsSound()) sound.crank(interval, turns, pa);
    return new Promise(done => {
      const began = performance.now(), length = (pa.length - 1) * interval;
      let over = false, shown = 0;
      skip = () => { over = true; sound.stop(); };
      const step = () => {
        const t = over ? length : Math.min(length, (performance.now() - began) / 1000);
        // The needle lags a little behind what the gauge holds.
        const held = pa[Math.min(pa.length - 1, Math.floor(t / interval))];
        shown = over || t >= length ? pa.at(-1) : shown + (held - shown) * 0.25;
        show(shown, passed(held));
        if (t < length) requestAnimationFrame(step);
        else done();
      };
      requestAnimationFrame(step);
    });
  }
  document.addEventListener("click", event => { if (event.target.closest?.("[data-dial]")) skip(); });
  document.addEventListener("keydown", event => { if (event.key === "Escape") skip(); });

  // What is done at the practice bench.
  let busy = false;
  async function act(form, button) {
    if (busy) return;
    busy = true;
    button?.setAttribute("aria-busy", "true");
    try {
      const answer = await fetch(form.getAttribute("action"), { method: "POST", body: new URLSearchParams(new FormData(form, button)), headers: { "HX-Request": "true" } });
      if (!answer.ok) { say(answer.status === 403 ? "Only whoever does this exercise may do that." : "The server did not take it. Reload the page and try again.", true); return; }
      const told = await answer.json();
      const entry = form.querySelector("[name=entry]");
      if (entry) entry.value = crypto.randomUUID?.().replaceAll("-", "") ?? String(Math.random()).slice(2);
      if (told.gauge) { say("Cranking.", false); await play(told.gauge); }
      if (told.db !== null && wantsSound()) sound.hiss(told.db);
      const clock = document.querySelector("[data-practice-clock]");
      if (clock && told.minutes !== null) clock.textContent = Math.round(told.minutes);
      if (!told.refused) await look(told.go, button?.dataset.do);
      say(told.says, told.refused);
      const said = document.getElementById("said");
      if (said) said.textContent = told.says;
    } catch {
      say("No network: the practice bench needs the server. Try again when it is back.", true);
    } finally {
      busy = false;
      button?.removeAttribute("aria-busy");
    }
  }
  // The page as it stands now; where it is another one it is gone to.
  async function look(to, done) {
    const url = new URL(to, location.href);
    if (url.pathname !== location.pathname) { location.href = url.href; return; }
    const html = await (await fetch(url, { headers: { "HX-Request": "true" } })).text();
    history.replaceState(null, "", url);
    if (document.getElementById("bench")) zandrik.bench.swap(html);
    else zandrik.step.swap(html);
    switches();
    const again = document.querySelector(`[data-gauge-panel] [data-do="${done}"]:not(:disabled)`) ?? document.querySelector("[data-gauge-panel] [data-here]:not(:disabled)");
    if (again && !document.activeElement?.closest?.(".ears")) again.focus({ preventScroll: true });
  }
  document.addEventListener("submit", event => {
    const form = event.target.closest("[data-act]");
    if (!form) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    act(form, event.submitter);
  }, true);

  const start = () => {
    switches();
    new MutationObserver(again).observe(document.getElementById("main"), { childList: true });
    const part = document.getElementById("bench") ?? document.getElementById("step");
    if (part) new MutationObserver(again).observe(part.parentElement, { childList: true });
    document.documentElement.dataset.gauge = "awake";
  };
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", start);
  else start();
  zandrik.gauge = { show, say, sound, atOnce, wantsSound };
})();
