// Captures of starter current: brought with progress, and looked into. The trace is drawn on a canvas over the
// server's drawing of it: lowest to highest of all samples under a pixel, so that no spike vanishes at any zoom.
(() => {
  const step = () => document.getElementById("step");
  const show = (element, on) => { if (element) element.hidden = !on; };

  // ---- Bringing a capture

  document.addEventListener("submit", event => {
    const form = event.target;
    if (form.matches("[data-upload]")) { event.preventDefault(); bring(form); }
    else if (form.matches("[data-judge]")) { event.preventDefault(); judge(form); }
  });

  function bring(form) {
    const part = name => form.querySelector(`[data-${name}]`);
    const file = form.querySelector("input[type=file]").files[0];
    const problem = part("upload-problem");
    const say = text => { problem.textContent = text; show(problem, !!text); };
    if (!file) { say("Choose the file of the capture first."); return; }
    if (file.size > Number(form.dataset.most)) { say(form.dataset.tooLarge); return; }
    say("");
    const request = new XMLHttpRequest();
    const bar = part("bringing").querySelector("progress"), sent = part("sent");
    const busy = on => {
      show(part("bringing"), on);
      part("bring").disabled = on;
      if (on) step().dataset.busy = "upload"; else delete step().dataset.busy;
    };
    const mega = bytes => (bytes / 1e6).toFixed(1);
    request.open("POST", form.getAttribute("action"));
    request.setRequestHeader("HX-Request", "true");
    request.upload.addEventListener("progress", e => {
      bar.value = e.lengthComputable ? e.loaded / e.total : 0;
      sent.textContent = e.loaded < e.total ? `${mega(e.loaded)} of ${mega(e.total)} MB` : "sent, being kept";
    });
    request.addEventListener("load", () => {
      busy(false);
      if (request.status === 200 || request.status === 422) {
        zandrik.step.swap(request.responseText, request.status === 200 ? ["file"] : []);
        history.replaceState(null, "", step().dataset.address);
      }
      else if (request.status === 401 || request.status === 400) say("You are signed out, or this page is too old. Reload it and choose the file again.");
      else if (request.status === 413) say(form.dataset.tooLarge);
      else say("The server is in trouble. Your file is still chosen: upload it again in a moment.");
    });
    request.addEventListener("error", () => { busy(false); say("The network went away. Your file is still chosen: upload it again when it is back."); });
    request.addEventListener("abort", () => { busy(false); say("Cancelled. Nothing was kept; the file is still chosen."); });
    part("stop").onclick = () => request.abort();
    bar.value = 0;
    sent.textContent = "";
    busy(true);
    part("stop").focus();
    request.send(new FormData(form));
  }

  async function judge(form) {
    const button = form.querySelector("[data-judge-now]"), says = form.querySelector("[data-judging]");
    if (button.disabled) return;
    button.disabled = true;
    says.textContent = "Reading the capture…";
    show(says, true);
    step().dataset.busy = "judging";
    try {
      const answer = await fetch(form.getAttribute("action"), { method: "POST", body: new URLSearchParams(new FormData(form)), headers: { "HX-Request": "true" } });
      delete step().dataset.busy;
      if (answer.status !== 200 && answer.status !== 422) throw new Error();
      zandrik.step.swap(await answer.text());
      history.replaceState(null, "", step().dataset.address);
    } catch {
      delete step().dataset.busy;
      button.disabled = false;
      says.textContent = "That did not get through. The capture is kept: judge it again.";
    }
  }

  // ---- Looking into a trace

  // Where somebody looks stays when the step is shown anew.
  const kept = { address: "", from: 0, to: 0, surge: false, cursor: null, pin: null };
  let trace = null;

  const breath = () => new Promise(done => requestAnimationFrame(() => setTimeout(done)));

  class Trace {
    constructor(box) {
      this.box = box;
      this.about = JSON.parse(box.dataset.look);
      this.canvas = document.createElement("canvas");
      this.canvas.tabIndex = 0;
      this.canvas.setAttribute("role", "application");
      this.canvas.setAttribute("aria-label", "Starter current. Arrow keys move the cursor, plus and minus zoom, Home shows the whole; the table below has the figures.");
      this.fingers = new Map();
      this.frame = 0;
    }

    async open() {
      const answer = await fetch(this.box.dataset.trace);
      if (!answer.ok) return false;
      const bytes = await answer.arrayBuffer(), head = new DataView(bytes);
      const [n, syncs] = [head.getInt32(0, true), head.getInt32(4, true)];
      this.step = head.getFloat64(8, true);
      this.scale = [head.getFloat32(16, true), head.getFloat32(20, true)];
      this.current = new Uint16Array(bytes, 40, 2 * n);
      this.sync = new Uint16Array(bytes, 40 + 4 * n, 2 * syncs);
      this.end = n * this.step;
      if (kept.address !== this.box.dataset.trace) Object.assign(kept, { address: this.box.dataset.trace, from: 0, to: this.end, surge: false, cursor: null, pin: null });
      // In short pieces, so that a finger is answered in between on a slow tablet.
      await breath();
      this.box.append(this.canvas);
      this.box.classList.add("looked-into");
      await breath();
      const card = this.box.closest(".trace-card");
      card.querySelectorAll("[data-trace-tools], [data-trace-keys]").forEach(e => show(e, true));
      card.querySelectorAll("[data-trace-tools] [data-look]").forEach(b => b.addEventListener("click", () => this.look(b.dataset.look)));
      card.querySelector("[data-save-trace]").addEventListener("click", e => this.save(e.target.dataset));
      this.says = card.querySelector("[data-cursor]");
      this.surge = card.querySelector("[data-look=surge]");
      this.canvas.addEventListener("keydown", e => this.key(e));
      for (const kind of ["pointerdown", "pointermove", "pointerup", "pointercancel", "pointerleave"]) this.canvas.addEventListener(kind, e => this.pointer(e));
      this.canvas.addEventListener("dblclick", e => this.zoom(0.4, this.timeAt(e.offsetX)));
      this.canvas.addEventListener("wheel", e => {
        // Turning the wheel moves the page; with Ctrl, or a pinch on a pad, it zooms.
        if (!e.ctrlKey) return;
        e.preventDefault();
        this.zoom(Math.exp(e.deltaY / 300), this.timeAt(e.offsetX));
      }, { passive: false });
      await breath();
      if (this.closed) return false;
      this.watch = new ResizeObserver(() => this.draw());
      this.watch.observe(this.box);
      this.draw();
      return true;
    }

    // What is looked at, on paper's ground with its name over it.
    save({ saveTrace, title }) {
      const picture = document.createElement("canvas"), head = 34 * (this.canvas.width / this.width), page = getComputedStyle(this.box);
      picture.width = this.canvas.width;
      picture.height = this.canvas.height + head;
      const on = picture.getContext("2d");
      on.fillStyle = page.getPropertyValue("--card");
      on.fillRect(0, 0, picture.width, picture.height);
      on.fillStyle = page.getPropertyValue("--ink");
      on.font = `600 ${head * .5}px ${page.getPropertyValue("--condensed")}`;
      on.fillText(title, head * .4, head * .68);
      on.drawImage(this.canvas, 0, head);
      picture.toBlob(blob => {
        const link = document.createElement("a");
        link.href = URL.createObjectURL(blob);
        link.download = `${saveTrace}.png`;
        document.body.append(link);
        link.click();
        link.remove();
        setTimeout(() => URL.revokeObjectURL(link.href), 10000);
      });
    }

    close() { this.closed = true; this.watch?.disconnect(); cancelAnimationFrame(this.frame); }

    // Places: the margins leave room for amps and seconds.
    get area() { return { left: 48, right: this.width - 8, top: 20, bottom: this.height - 44 - (this.sync.length ? 30 : 0) }; }
    xAt(s) { const a = this.area; return a.left + (a.right - a.left) * (s - kept.from) / (kept.to - kept.from); }
    timeAt(x) { const a = this.area; return kept.from + (kept.to - kept.from) * (x - a.left) / (a.right - a.left); }
    amps(level) { return this.scale[0] + this.scale[1] * level; }

    range() {
      let [low, high] = this.about.amps;
      if (kept.surge) for (let i = 0; i < this.current.length; i += 2) { low = Math.min(low, this.amps(this.current[i])); high = Math.max(high, this.amps(this.current[i + 1])); }
      return [low, high * (kept.surge ? 1.04 : 1)];
    }

    draw() {
      if (!this.frame) this.frame = requestAnimationFrame(() => { this.frame = 0; this.paint(); });
    }

    paint() {
      const dots = devicePixelRatio || 1;
      [this.width, this.height] = [this.canvas.clientWidth, this.canvas.clientHeight];
      if (!this.width) return;
      if (this.canvas.width !== Math.round(this.width * dots) || this.canvas.height !== Math.round(this.height * dots)) [this.canvas.width, this.canvas.height] = [Math.round(this.width * dots), Math.round(this.height * dots)];
      const c = this.canvas.getContext("2d"), style = getComputedStyle(this.canvas), ink = name => style.getPropertyValue(`--${name}`);
      const a = this.area, [low, high] = this.range();
      const y = amps => a.top + (a.bottom - a.top) * (high - Math.min(high, Math.max(low, amps))) / (high - low);
      c.setTransform(dots, 0, 0, dots, 0, 0);
      c.clearRect(0, 0, this.width, this.height);
      c.font = "600 13px 'Barlow Condensed', sans-serif";
      c.textBaseline = "middle";
      this.humps(c, ink, a);
      // Amps and seconds.
      c.strokeStyle = ink("line"); c.fillStyle = ink("soft"); c.lineWidth = 1; c.textAlign = "right";
      for (const t of ticks(low, high, 4)) { c.beginPath(); c.moveTo(a.left, y(t)); c.lineTo(a.right, y(t)); c.stroke(); c.fillText(String(t), a.left - 6, y(t)); }
      c.fillText("A", a.left - 6, 9);
      c.textAlign = "center";
      for (const t of ticks(kept.from, kept.to, Math.max(3, this.width / 95))) c.fillText(t === 0 ? "0 s" : String(t), this.xAt(t), this.height - 9);
      c.save();
      c.beginPath(); c.rect(a.left, 0, a.right - a.left, this.height); c.clip();
      c.strokeStyle = ink("watch"); c.lineWidth = 1.5; c.setLineDash([5, 4]);
      for (const t of this.about.events) { const x = this.xAt(t); c.beginPath(); c.moveTo(x, a.top); c.lineTo(x, a.bottom); c.stroke(); }
      c.setLineDash([]);
      this.line(c, this.current, level => y(this.amps(level)), a, ink("ink"));
      if (this.sync.length) {
        const [top, bottom] = [a.bottom + 24, a.bottom + 48];
        this.line(c, this.sync, level => bottom - (bottom - top) * level / 65535, a, ink("watch-ink"));
      }
      for (const [t, pinned] of [[kept.pin, true], [kept.cursor, false]]) {
        if (t === null) continue;
        const x = this.xAt(t);
        c.strokeStyle = ink(pinned ? "soft" : "deep"); c.lineWidth = 2;
        c.beginPath(); c.moveTo(x, a.top - 4); c.lineTo(x, a.bottom); c.stroke();
        if (!pinned) { c.fillStyle = ink("deep"); c.beginPath(); c.arc(x, y(this.ampsAt(t)), 4.5, 0, 7); c.fill(); }
      }
      c.restore();
      if (!kept.surge) this.cut(c, ink, a, high);
      this.tell();
      this.canvas.dataset.shown = `${kept.from.toFixed(4)} ${kept.to.toFixed(4)}`;
    }

    humps(c, ink, a) {
      const grounds = { sound: [ink("band"), ink("well")], watch: [ink("watch-ground")], low: [ink("low-ground")], dead: [ink("low-ground")], untested: [ink("well")] };
      const hatch = this.hatch(c, ink("low"));
      let named = 0;
      for (const [from, to, slot] of this.about.humps) {
        const s = this.about.slots[slot - 1], [x1, x2] = [Math.max(a.left, this.xAt(from)), Math.min(a.right, this.xAt(to))];
        if (x2 <= x1) continue;
        const ground = grounds[s.state];
        c.fillStyle = ground[slot % ground.length];
        c.fillRect(x1, a.top, x2 - x1, a.bottom - a.top);
        if (s.state === "low" || s.state === "dead") { c.fillStyle = hatch; c.fillRect(x1, a.top, x2 - x1, a.bottom - a.top); }
        if (x2 - x1 > 8.5) {
          named++;
          c.fillStyle = s.state === "low" || s.state === "dead" ? ink("low") : s.state === "watch" ? ink("watch-ink") : ink("ink");
          c.textAlign = "center";
          c.fillText(s.name, (x1 + x2) / 2, a.bottom + 13);
        }
      }
      this.canvas.dataset.humps = String(named);
    }

    hatch(c, colour) {
      const tile = document.createElement("canvas");
      tile.width = tile.height = 9;
      const t = tile.getContext("2d");
      t.strokeStyle = colour; t.globalAlpha = 0.3; t.lineWidth = 1.6;
      t.beginPath(); t.moveTo(-1, 10); t.lineTo(10, -1); t.stroke();
      return c.createPattern(tile, "repeat");
    }

    // From the lowest to the highest of what lies under each pixel; single samples are joined when they stand apart.
    line(c, pairs, y, a, colour) {
      const n = pairs.length / 2, per = (kept.to - kept.from) / this.step / (a.right - a.left);
      c.strokeStyle = colour; c.lineWidth = per < 1 ? 1.8 : 1.3; c.lineJoin = "round";
      c.beginPath();
      if (per <= 1) {
        const [first, last] = [Math.max(0, Math.floor(kept.from / this.step) - 1), Math.min(n - 1, Math.ceil(kept.to / this.step) + 1)];
        for (let i = first; i <= last; i++) {
          const x = this.xAt((i + 0.5) * this.step);
          if (i === first) c.moveTo(x, y(pairs[2 * i])); else c.lineTo(x, y(pairs[2 * i]));
          if (pairs[2 * i + 1] !== pairs[2 * i]) c.lineTo(x, y(pairs[2 * i + 1]));
        }
      } else {
        let before = null;
        for (let x = a.left; x < a.right; x++) {
          const i1 = Math.max(0, Math.floor(this.timeAt(x) / this.step)), i2 = Math.min(n, Math.max(i1 + 1, Math.floor(this.timeAt(x + 1) / this.step)));
          if (i1 >= n) break;
          let low = 65535, high = 0;
          for (let i = i1; i < i2; i++) { if (pairs[2 * i] < low) low = pairs[2 * i]; if (pairs[2 * i + 1] > high) high = pairs[2 * i + 1]; }
          // Reaches to the column before, so that a steep edge is not broken.
          if (before) { if (before[0] > high) high = before[0]; if (before[1] < low) low = before[1]; }
          before = [low, high];
          c.moveTo(x + 0.5, y(low) + 0.5);
          c.lineTo(x + 0.5, y(high) - 0.5);
        }
      }
      c.stroke();
    }

    // What is cut off at the top is said, never hidden.
    cut(c, ink, a, high) {
      const [i1, i2] = [Math.max(0, Math.floor(kept.from / this.step)), Math.min(this.current.length / 2, Math.ceil(kept.to / this.step))];
      let peak = 0, at = 0;
      for (let i = i1; i < i2; i++) if (this.current[2 * i + 1] > peak) [peak, at] = [this.current[2 * i + 1], i];
      if (this.amps(peak) <= high * 1.001) return;
      const x = this.xAt((at + 0.5) * this.step);
      c.fillStyle = ink("soft"); c.textAlign = x > a.right - 140 ? "right" : "left";
      c.fillText(`▲ up to ${Math.round(this.amps(peak))} A`, x + (c.textAlign === "left" ? 8 : -8), 10);
    }

    ampsAt(t) {
      const i = Math.min(this.current.length / 2 - 1, Math.max(0, Math.floor(t / this.step)));
      return (this.amps(this.current[2 * i]) + this.amps(this.current[2 * i + 1])) / 2;
    }

    tell() {
      if (kept.cursor === null) { this.says.textContent = "Move over the trace, or tap it, for amps, time and speed."; return; }
      const t = kept.cursor, parts = [`${t.toFixed(3)} s`, `${Math.round(this.ampsAt(t))} A`];
      const { speed, humps, slots } = this.about;
      if (speed.length && t >= speed[0][0] && t <= speed.at(-1)[0]) {
        const i = Math.max(1, speed.findIndex(p => p[0] >= t)), [p, q] = [speed[i - 1], speed[i]];
        parts.push(`${Math.round(p[1] + (q[1] - p[1]) * (t - p[0]) / (q[0] - p[0]))} rpm`);
      }
      const hump = humps.find(h => t >= h[0] && t < h[1]);
      if (hump) parts.push(`${this.about.what} ${slots[hump[2] - 1].name}`);
      if (kept.pin !== null) {
        const dt = Math.abs(t - kept.pin);
        parts.push(`from the pin ${(dt * 1000).toFixed(1)} ms, ${Math.round(this.ampsAt(t) - this.ampsAt(kept.pin))} A`);
      }
      this.says.textContent = parts.join(" · ");
    }

    to(from, to) {
      const least = Math.max(8 * this.step, this.end / 100000), width = Math.min(this.end, Math.max(least, to - from));
      kept.from = Math.max(0, Math.min(this.end - width, from));
      kept.to = kept.from + width;
      this.draw();
    }
    zoom(by, about) { const at = Math.min(kept.to, Math.max(kept.from, about)); this.to(at - (at - kept.from) * by, at + (kept.to - at) * by); }
    pan(by) { this.to(kept.from + by, kept.to + by); }
    set(t) {
      kept.cursor = Math.min(this.end, Math.max(0, t));
      if (kept.cursor < kept.from || kept.cursor > kept.to) this.pan(kept.cursor - (kept.from + kept.to) / 2);
      this.draw();
    }
    look(how) {
      const middle = kept.cursor !== null && kept.cursor >= kept.from && kept.cursor <= kept.to ? kept.cursor : (kept.from + kept.to) / 2;
      if (how === "whole") this.to(0, this.end);
      else if (how === "settled") this.to(...this.about.settled);
      else if (how === "surge") { kept.surge = !kept.surge; this.surge.setAttribute("aria-pressed", kept.surge); this.draw(); }
      else this.zoom(how === "closer" ? 0.5 : 2, middle);
    }

    key(e) {
      const width = kept.to - kept.from, t = kept.cursor ?? (kept.from + kept.to) / 2, middle = h => (h[0] + h[1]) / 2;
      const keys = {
        ArrowLeft: () => e.shiftKey ? this.pan(-width / 8) : this.set(t - width / 200), ArrowRight: () => e.shiftKey ? this.pan(width / 8) : this.set(t + width / 200),
        "+": () => this.zoom(0.5, t), "=": () => this.zoom(0.5, t), "-": () => this.zoom(2, t), Home: () => this.look("whole"),
        ",": () => { const h = this.about.humps.findLast(h => middle(h) < t - 1e-6); if (h) this.set(middle(h)); },
        ".": () => { const h = this.about.humps.find(h => middle(h) > t + 1e-6); if (h) this.set(middle(h)); },
        Enter: () => { kept.pin = kept.pin === null ? t : null; this.draw(); }, Escape: () => { kept.pin = kept.cursor = null; this.draw(); },
      };
      if (!keys[e.key] || e.ctrlKey || e.metaKey || e.altKey) return;
      e.preventDefault();
      keys[e.key]();
    }

    // One finger or the mouse moves, two zoom, a tap sets the cursor; the mouse over it carries the cursor along.
    pointer(e) {
      if (e.type === "pointerdown") {
        this.canvas.setPointerCapture(e.pointerId);
        this.fingers.set(e.pointerId, e.offsetX);
        this.moved = 0;
        return;
      }
      if (e.type === "pointermove") {
        if (!this.fingers.has(e.pointerId)) { if (e.pointerType === "mouse") this.set(Math.min(kept.to, Math.max(kept.from, this.timeAt(e.offsetX)))); return; }
        const before = this.fingers.get(e.pointerId), seconds = (kept.to - kept.from) / (this.area.right - this.area.left);
        if (this.fingers.size === 1) this.pan((before - e.offsetX) * seconds);
        else {
          const other = [...this.fingers].find(([id]) => id !== e.pointerId)[1], [was, is] = [Math.abs(before - other), Math.abs(e.offsetX - other)];
          if (was > 8 && is > 8) this.zoom(was / is, this.timeAt(other));
        }
        this.moved += Math.abs(e.offsetX - before);
        this.fingers.set(e.pointerId, e.offsetX);
        return;
      }
      if (e.type === "pointerup" && this.fingers.size === 1 && this.moved < 6) this.set(this.timeAt(e.offsetX));
      this.fingers.delete(e.pointerId);
    }
  }

  function ticks(from, to, about) {
    const raw = (to - from) / about, unit = 10 ** Math.floor(Math.log10(raw)), share = raw / unit;
    const by = unit * (share < 1.5 ? 1 : share < 3.5 ? 2 : share < 7.5 ? 5 : 10), all = [];
    for (let k = Math.ceil(from / by - 1e-9); k * by <= to; k++) all.push(Number((k * by).toPrecision(8)));
    return all;
  }

  async function begin() {
    const box = step()?.querySelector("[data-trace]");
    if (trace?.box === box) return;
    trace?.close();
    trace = box ? new Trace(box) : null;
    if (!trace) return;
    const mine = trace;
    try { if (await mine.open()) document.documentElement.dataset.trace = "awake"; } catch { /* the server's drawing stands */ }
  }
  document.addEventListener("zandrik:shown", begin);
  // The colours of day and night are read anew.
  matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => trace?.draw());
  new MutationObserver(() => trace?.draw()).observe(document.documentElement, { attributes: true, attributeFilter: ["data-bs-theme"] });
  // The samples are fetched when the page stands and has nothing else to do: the server's drawing is there until then.
  const whenQuiet = () => (window.requestIdleCallback ?? setTimeout)(begin, { timeout: 800 });
  if (document.readyState === "complete") whenQuiet();
  else addEventListener("load", whenQuiet, { once: true });
})();
