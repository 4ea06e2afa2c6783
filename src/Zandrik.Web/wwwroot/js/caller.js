// The crank caller: a count-in for whoever cranks, a counter for whoever watches the needle.
(() => {
  const root = document.getElementById("caller");
  const part = name => root.querySelector(`[data-${name}]`);
  let cylinder = Number(root.dataset.cylinder), count = 0, first = 0, last = 0, calling = 0;
  const target = Number(root.dataset.target) || 0;
  const say = text => { part("says").textContent = text; };

  let sound;
  function beep(high) {
    try {
      sound ??= new AudioContext();
      const tone = sound.createOscillator(), loud = sound.createGain();
      tone.frequency.value = high ? 1320 : 880;
      loud.gain.value = .15;
      tone.connect(loud).connect(sound.destination);
      tone.start();
      tone.stop(sound.currentTime + .12);
    } catch { /* a tablet without sound still shows it */ }
  }

  function show() {
    part("count").textContent = count;
    part("shown").textContent = cylinder;
    const done = count > 0;
    part("keep").hidden = part("again").hidden = !done;
    part("count-in").hidden = done;
    if (done) part("keep").textContent = `Save ${count} for cylinder ${cylinder}`;
    for (const pick of root.querySelectorAll("[data-pick]")) pick.setAttribute("aria-pressed", String(Number(pick.dataset.pick) === cylinder));
  }
  function reset() {
    count = first = last = 0;
    clearTimeout(calling);
    show();
  }
  function tap() {
    last = performance.now();
    if (count === 0) first = last;
    count++;
    if (target && count === target) { say("Stop."); beep(true); }
    else if (target && count < target) say(`${target - count} more.`);
    else if (target) say(`${count - target} more than the others.`);
    else say("Tap until it stops.");
    show();
  }
  function countIn(n) {
    if (n === 0) { say("Crank!"); beep(true); return; }
    say(`${n} …`);
    beep(false);
    calling = setTimeout(() => countIn(n - 1), 1000);
  }
  async function keep() {
    const seconds = count > 1 ? ((last - first) / 1000 * count / (count - 1)).toFixed(1) : "";
    const test = root.dataset.test ? { test: root.dataset.test } : {};
    const kept = cylinder, taps = count;
    // What is wrong with a count is said on the page of the dry test; here it is only kept and shown.
    const entry = { job: Number(root.dataset.job), page: `/jobs/${root.dataset.job}/dry`, to: `/jobs/${root.dataset.job}/dry?handler=Details`, kind: "Details", cylinder, says: `Cylinder ${cylinder}, ${count} compressions`,
      form: { cylinder, Pulses: count, Seconds: seconds, unit: "psi", entry: zandrik.outbox.uuid(), ...test } };
    entry.key = entry.form.entry;
    const picks = [...root.querySelectorAll("[data-pick]")].map(p => Number(p.dataset.pick));
    cylinder = picks[(picks.indexOf(cylinder) + 1) % picks.length];
    reset();
    await zandrik.outbox.add(entry);
    const left = (await zandrik.outbox.all()).find(e => e.key === entry.key);
    say(!left ? `Cylinder ${kept}: ${taps} saved.` : left.stuck ? `Cylinder ${kept}: ${taps} was not taken, see above.` : `Cylinder ${kept}: ${taps} waits on this device.`);
  }
  root.addEventListener("click", event => {
    const button = event.target.closest("button");
    if (!button) return;
    if (button.matches("[data-tap]")) tap();
    else if (button.matches("[data-count-in]")) countIn(3);
    else if (button.matches("[data-again]")) { reset(); say("Again."); }
    else if (button.matches("[data-keep]")) keep();
    else if (button.matches("[data-pick]")) { cylinder = Number(button.dataset.pick); reset(); }
  });
  part("tap").focus();
})();
