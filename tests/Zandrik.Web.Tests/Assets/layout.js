// What is wrong with the layout of the page as it is shown now, one line each; empty where nothing is. Evaluated in the
// browser by LayoutTests, at every width.
(() => {
  const wrong = [];
  const width = innerWidth;
  const shown = e => e.checkVisibility({ visibilityProperty: true, opacityProperty: true }) && e.getBoundingClientRect().width > 1;
  const says = e => `${e.tagName.toLowerCase()}${e.className && typeof e.className === "string" ? "." + e.className.trim().split(/\s+/).join(".") : ""} "${(e.getAttribute("aria-label") ?? e.textContent ?? "").trim().replace(/\s+/g, " ").slice(0, 40)}"`;
  const floats = e => { for (let x = e; x; x = x.parentElement) if (/sticky|fixed/.test(getComputedStyle(x).position)) return true; return false; };
  // What of it is seen: a box that scrolls cuts off the rest.
  const seen = e => {
    let { left, right, top, bottom } = e.getBoundingClientRect();
    for (let x = e.parentElement; x; x = x.parentElement)
      if (/auto|scroll|hidden/.test(getComputedStyle(x).overflowX)) {
        const box = x.getBoundingClientRect();
        [left, right, top, bottom] = [Math.max(left, box.left), Math.min(right, box.right), Math.max(top, box.top), Math.min(bottom, box.bottom)];
      }
    return { left, right, top, bottom };
  };
  const clips = e => { for (let x = e.parentElement; x; x = x.parentElement) if (/auto|scroll|hidden/.test(getComputedStyle(x).overflowX)) return true; return false; };
  scrollTo(0, 0);

  if (document.documentElement.scrollWidth > width) wrong.push(`the page is ${document.documentElement.scrollWidth} px wide`);

  // The work is never squeezed into a sliver: the widest card fills a phone, and has room on anything larger.
  const cards = [...document.querySelectorAll("main :is(.card-plain, .bay-link, .sheet, .paper, .label, .job-lines)")].filter(shown);
  const widest = Math.max(0, ...cards.map(c => c.getBoundingClientRect().width));
  if (cards.length && widest < Math.min(width - 44, 340) && !cards[0].matches(".label")) wrong.push(`the widest card is ${Math.round(widest)} px`);

  // Nothing that is pressed lies over something else that is pressed, and no card over another.
  const overlap = (a, b) => Math.min(a.right, b.right) - Math.max(a.left, b.left) > 2 && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 2;
  const pressed = [...document.querySelectorAll("main :is(a[href], button, select, textarea, summary, input:not([type=hidden])), .topbar :is(a[href], button, input)")]
    .filter(e => shown(e) && !e.closest("svg") && !floats(e)).map(e => [e, seen(e)]);
  const apart = (list) => {
    for (let i = 0; i < list.length; i++)
      for (let j = i + 1; j < list.length; j++)
        if (overlap(list[i][1], list[j][1]) && !list[i][0].contains(list[j][0]) && !list[j][0].contains(list[i][0])) wrong.push(`${says(list[i][0])} lies over ${says(list[j][0])}`);
  };
  apart(pressed);
  apart(cards.filter(c => !floats(c)).map(c => [c, c.getBoundingClientRect()]));

  // What is written in a card stays in it.
  for (const e of document.querySelectorAll("main .card-plain :is(p, b, span, h2, h3, td, th, dd, dt, li, button, .btn, summary)")) {
    if (!shown(e) || e.closest("svg") || clips(e) || floats(e) || e.closest(".visually-hidden, .stacked thead")) continue;
    const card = e.closest(".card-plain").getBoundingClientRect(), box = e.getBoundingClientRect();
    // A card whose parts stand for themselves on a phone has no box of its own.
    if (card.width === 0) continue;
    if (box.right > card.right + 1 || box.left < card.left - 1) wrong.push(`${says(e)} sticks out of its card`);
  }

  // What is done next is on the first screen, or stays in reach.
  const primary = [...document.querySelectorAll("main :is(.btn-primary, .key.next, [data-primary])")].filter(e => shown(e) && !e.disabled);
  if (primary.length && !primary.some(e => { const box = e.getBoundingClientRect(); return floats(e) || (box.top >= 0 && box.bottom <= innerHeight + 1); })) wrong.push(`${says(primary[0])} is below the first screen, at ${Math.round(primary[0].getBoundingClientRect().top)} px`);

  // A finger needs 44 px; links within a sentence are as tall as their line.
  if (width <= 1024) {
    for (const e of document.querySelectorAll("main :is(button, select, summary, .btn, input:not([type=hidden], [type=checkbox], [type=radio])), .topbar :is(a, button, input)")) {
      if (!shown(e) || e.closest("svg, .visually-hidden")) continue;
      const box = e.getBoundingClientRect();
      if (box.height < 43.5) wrong.push(`${says(e)} is ${Math.round(box.height)} px high`);
    }
  }
  return wrong;
})()
