// Gives each map in the page the height that it asks for, and colours and font of the page where it
// sets --ochre-paper, -ink, -soft, -faint or -font: <iframe data-ochre src="map.html">.
addEventListener("message", (e) => {
  const map = [...document.querySelectorAll("iframe[data-ochre]")].find(
    (frame) => frame.contentWindow === e.source,
  );
  if (!map || !e.data) return;
  if (e.data.ochre === "ready") {
    const look = getComputedStyle(map);
    const names = ["paper", "ink", "soft", "faint", "font"];
    const style = {};
    for (const name of names) {
      const value = look.getPropertyValue(`--ochre-${name}`).trim();
      if (value) style[name] = value;
    }
    e.source.postMessage({ ochre: "host", style }, "*");
  }
  if (e.data.ochre === "height") map.style.height = `${Math.min(5000, e.data.height)}px`;
});
