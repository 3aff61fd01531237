HTMLWidgets.widget({
  name: "ochre",
  type: "output",
  factory: function (el) {
    var map = null;
    return {
      renderValue: function (x) { map = window.ochreMap.mount(el, JSON.parse(x.plan)); },
      resize: function () { if (map) map.resize(); }
    };
  }
});
