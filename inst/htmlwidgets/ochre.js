HTMLWidgets.widget({
  name: "ochre",
  type: "output",
  factory: function (el) {
    var map = null;
    return {
      renderValue: function (x) {
        if (map) map.dispose();
        map = window.ochreMap.mount(el, JSON.parse(x.plan), { level: 2 });
      },
      resize: function () {
        if (map) map.resize();
      }
    };
  }
});
