HTMLWidgets.widget({
  name: "ochre",
  type: "output",
  factory: function (el) {
    var map = null;
    return {
      renderValue: function (x) {
        if (map) map.dispose();
        // In a document the map has the height that its content needs, where nobody gave one.
        var fills = HTMLWidgets.shinyMode || document.getElementById("htmlwidget_container");
        el.classList.toggle("ochre-embedded", !fills && x.fits);
        map = x.plans
          ? window.ochreMap.mountLinked(el, x.title, x.plans.map((plan) => JSON.parse(plan)))
          : window.ochreMap.mount(el, JSON.parse(x.plan), { level: 2 });
      },
      resize: function () {
        if (map) map.resize();
      }
    };
  }
});
