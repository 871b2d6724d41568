// The laws of the frame, checked on whatever is shown. Answers with every breach in words.
() => {
  const breaches = [];
  const name = (e) =>
    `<${e.tagName.toLowerCase()}${e.className && typeof e.className === "string" ? "." + e.className.split(/\s+/).slice(0, 3).join(".") : ""}> “${(e.textContent || e.getAttribute("aria-label") || "").trim().slice(0, 40)}”`;
  const root = document.scrollingElement;
  if (root.scrollHeight > innerHeight + 1)
    breaches.push(
      `the document is ${root.scrollHeight - innerHeight} px taller than the window`,
    );
  if (root.scrollWidth > innerWidth + 1)
    breaches.push(
      `the document is ${root.scrollWidth - innerWidth} px wider than the window`,
    );
  scrollTo(0, 500);
  if (scrollY !== 0) breaches.push("the document scrolls");
  scrollTo(0, 0);
  const shown = (e) =>
    e.checkVisibility({ visibilityProperty: true, opacityProperty: true }) &&
    !e.closest("[aria-hidden=true], .sr-only, [inert]");
  const titled = (e) =>
    e.closest("[title]") !== null ||
    (e.getAttribute("aria-label") && e.closest("a, button"));
  const styles = new Map();
  const styleOf = (e) =>
    styles.get(e) ?? styles.set(e, getComputedStyle(e)).get(e);
  // Whether something around an element clips it; what the whole page is in does not count.
  const clipping = new Map();
  const clipped = (e) => {
    const up = e.parentElement;
    if (!up || up === document.body || up.id === "root") return false;
    if (!clipping.has(up)) {
      const { overflowX, overflowY } = styleOf(up);
      clipping.set(
        up,
        overflowX !== "visible" || overflowY !== "visible" || clipped(up),
      );
    }
    return clipping.get(up);
  };
  const scrolls = (value) => value === "auto" || value === "scroll";
  for (const e of document.body.querySelectorAll("*")) {
    if (!shown(e) || e.closest("svg")) continue;
    const style = styleOf(e);
    const field = e.matches("input, select, textarea");
    if (
      !field &&
      style.overflowX !== "visible" &&
      !scrolls(style.overflowX) &&
      e.scrollWidth > e.clientWidth + 1 &&
      e.clientWidth > 2 &&
      !titled(e)
    )
      breaches.push(
        `cut at the side by ${e.scrollWidth - e.clientWidth} px without a title: ${name(e)}`,
      );
    if (
      !field &&
      style.overflowY !== "visible" &&
      !scrolls(style.overflowY) &&
      e.scrollHeight > e.clientHeight + 2 &&
      e.clientHeight > 2 &&
      !titled(e)
    )
      breaches.push(
        `cut below by ${e.scrollHeight - e.clientHeight} px: ${name(e)}`,
      );
    if (
      e.matches("input:not([type]), input[type=text], input[type=number]") &&
      e.clientWidth < 24
    )
      breaches.push(`too narrow to read: ${name(e)} ${e.clientWidth} px`);
    const box = e.getBoundingClientRect();
    if (box.width < 2 || box.height < 2) continue;
    if (
      !clipped(e) &&
      (box.right > innerWidth + 1 ||
        box.left < -1 ||
        box.bottom > innerHeight + 1 ||
        box.top < -1) &&
      style.position !== "absolute"
    )
      breaches.push(
        `outside of the window: ${name(e)} ${Math.round(box.left)},${Math.round(box.top)} – ${Math.round(box.right)},${Math.round(box.bottom)}`,
      );
  }
  return [...new Set(breaches)].slice(0, 12);
};
