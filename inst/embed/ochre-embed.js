// Gives each map in the page the height that it asks for: <iframe data-ochre src="map.html">.
addEventListener("message", (e) => {
  const map = [...document.querySelectorAll("iframe[data-ochre]")].find(
    (frame) => frame.contentWindow === e.source,
  );
  if (!map || !e.data) return;
  if (e.data.ochre === "ready") e.source.postMessage({ ochre: "host" }, "*");
  if (e.data.ochre === "height") map.style.height = `${Math.min(5000, e.data.height)}px`;
});
