HTMLWidgets.widget({
  name: "ochre",
  type: "output",
  factory: function (el) {
    var map = null;
    return {
      renderValue: function (x) {
        if (map) map.dispose();
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
