// Every visible piece of text as a box; which of them cover each other, stand on the needle, or are cut.
const PICTURES = "[data-mark='needle']";
const scrolls = (style) => /(auto|scroll)/.test(style.overflowX + style.overflowY);
// what is asked of an element is asked of those above it first, once each
const once = (of) => {
  const known = new Map();
  const ask = (el) => {
    if (!el) return of(null, ask);
    if (!known.has(el)) known.set(el, of(el, ask));
    return known.get(el);
  };
  return ask;
};
const style = once((el) => el && getComputedStyle(el));
const seen = once((el, above) => {
  if (!el) return true;
  const s = style(el);
  if (s.visibility === "hidden" || s.display === "none" || Number(s.opacity) === 0) return false;
  if (s.position === "absolute" && (s.clip !== "auto" || s.clipPath !== "none") && el.clientWidth <= 1) return false;
  return above(el.parentElement);
});
// the box that moves it, from inside
const within = once((el, above) => {
  if (!el) return document.documentElement;
  return scrolls(style(el)) && (el.scrollHeight > el.clientHeight + 1 || el.scrollWidth > el.clientWidth + 1) ? el : above(el.parentElement);
});
const home = (el) => within(el.parentElement);
const layer = once((el) => el && el.closest("[role='dialog'], details > div, [role='listbox']"));
// what cuts it: the drawing it stands in, or a box that neither shows nor moves what is beyond it
const cuts = once((el, above) => {
  if (!el) return null;
  const s = style(el);
  if (scrolls(s)) return null;
  if (el.tagName === "svg" || /hidden|clip/.test(s.overflowX + s.overflowY)) return s.textOverflow === "ellipsis" ? null : el;
  return above(el.parentElement);
});
const cutter = (el) => cuts(el.parentElement);
const sticky = once((el, above) => (el ? /sticky|fixed/.test(style(el).position) || above(el.parentElement) : false));
const boxes = [];
const cut = [];
const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
for (let node = walker.nextNode(); node; node = walker.nextNode()) {
  const text = node.nodeValue.trim();
  const el = node.parentElement;
  if (!text || ["SCRIPT", "STYLE", "OPTION", "TITLE", "NOSCRIPT", "TEXTAREA"].includes(el.tagName.toUpperCase()) || !seen(el)) continue;
  const range = document.createRange();
  range.selectNodeContents(node);
  const where = home(el);
  const by = cutter(el);
  const edge = by?.getBoundingClientRect();
  for (const r of range.getClientRects()) {
    if (r.width < 1 || r.height < 1) continue;
    // the letters are lower than their line
    const lean = r.height * 0.22;
    if (edge && (r.left < edge.left - 2 || r.right > edge.right + 2 || r.top + lean < edge.top || r.bottom - lean > edge.bottom)) cut.push(`"${text.slice(0, 60)}" is cut`);
    boxes.push({ text, el, where, layer: layer(el), l: r.left + 0.5, r: r.right - 0.5, t: r.top + lean, b: r.bottom - lean });
  }
}
for (const el of document.querySelectorAll(PICTURES)) {
  if (!seen(el)) continue;
  const r = el.getBoundingClientRect();
  boxes.push({ text: "the needle", el, where: home(el), layer: layer(el), l: r.left, r: r.right, t: r.top + 2, b: r.bottom - 2 });
}
boxes.sort((a, b) => a.t - b.t);
const covered = new Set();
const clipped = (box) => {
  const c = box.where === document.documentElement ? { left: 0, top: 0, right: innerWidth, bottom: Infinity } : box.where.getBoundingClientRect();
  return { ...box, l: Math.max(box.l, c.left), r: Math.min(box.r, c.right), t: Math.max(box.t, c.top), b: Math.min(box.b, c.bottom) };
};
for (let i = 0; i < boxes.length; i++) {
  for (let j = i + 1; j < boxes.length && boxes[j].t < boxes[i].b; j++) {
    let [a, b] = [boxes[i], boxes[j]];
    if (a.layer !== b.layer || a.el === b.el) continue;
    if (a.where !== b.where) [a, b] = [clipped(a), clipped(b)];
    const across = Math.min(a.r, b.r) - Math.max(a.l, b.l);
    const down = Math.min(a.b, b.b) - Math.max(a.t, b.t);
    if (across > 1 && down > 1.5 && sticky(a.el) === sticky(b.el)) covered.add(`"${a.text.slice(0, 60)}" and "${b.text.slice(0, 60)}"`);
  }
}
return [...covered, ...new Set(cut)];
