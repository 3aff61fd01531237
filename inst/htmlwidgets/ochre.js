// A map within a document, or in a Shiny app, where the server changes it and hears what the reader
// does (R/shiny-output.R, R/shiny-live.R).
(function () {
  // Maps of an app by the names of their outputs: `held`, and the `stamp` of the plan it shows.
  var maps = {};

  // What is of numbers only R makes into words.
  var kinds = {
    pointed: "thing",
    clicked: "thing",
    chosen: "thing",
    seen: "seen",
    period: "period",
    off: "off",
  };

  function tell(id) {
    var waiting = null;
    return function (what, value) {
      var name = id + "_" + what + ":ochre." + kinds[what];
      if (what !== "seen") return Shiny.setInputValue(name, value);
      clearTimeout(waiting);
      waiting = setTimeout(function () {
        Shiny.setInputValue(name, value);
      }, 150);
    };
  }

  function show(el, x) {
    var map = maps[el.id];
    if (map && map.el === el) map.held.renew(JSON.parse(x.plan));
    else {
      var held = new window.ochreHeld(el, JSON.parse(x.plan), { level: 2 }, tell(el.id));
      map = maps[el.id] = { el: el, held: held };
    }
    map.stamp = x.stamp;
    link(el.id);
    return map.held;
  }

  // Both of two maps of which the one names the other.
  function link(id) {
    for (var other in maps) {
      var near = other !== id && maps[id];
      var named = near && [near.el.dataset.link === other, maps[other].el.dataset.link === id];
      if (!named || !(named[0] || named[1])) continue;
      near.held.linked.add(maps[other].held);
      maps[other].held.linked.add(near.held);
    }
  }

  var acts = {
    values: function (held, given) {
      held.values(JSON.parse(given));
    },
    look: function (held, given) {
      held.look(given || {});
    },
    period: function (held, given) {
      held.period(given);
    },
    choose: function (held, given) {
      held.choose(given === undefined ? null : given);
    },
    mark: function (held, given) {
      held.mark(given);
    },
  };

  // A change is of a plan: where another one is shown, the whole is asked for.
  function take(message) {
    var map = maps[message.id];
    if (map && !document.contains(map.el)) map = undefined;
    var change = message.what === "change" || message.what === "whole";
    if (!change) return map && acts[message.what](map.held, message.given);
    var fits = map && (message.what === "whole" || message.from === map.stamp);
    if (!fits) {
      if (message.what === "change")
        Shiny.setInputValue(message.id + "_again", Date.now(), { priority: "event" });
      return;
    }
    map.held.renew(JSON.parse(message.given));
    map.stamp = message.stamp;
  }

  if (window.Shiny && Shiny.addCustomMessageHandler) Shiny.addCustomMessageHandler("ochre", take);

  HTMLWidgets.widget({
    name: "ochre",
    type: "output",
    factory: function (el) {
      var map = null;
      return {
        renderValue: function (x) {
          // In a document the map has the height that its content needs, where nobody gave one.
          var fills = HTMLWidgets.shinyMode || document.getElementById("htmlwidget_container");
          el.classList.toggle("ochre-embedded", !fills && x.fits);
          if (HTMLWidgets.shinyMode && window.ochreHeld && x.plan) {
            map = show(el, x);
            return;
          }
          if (map) map.dispose();
          map = x.plans
            ? window.ochreMap.mountLinked(
                el,
                JSON.parse(x.title),
                x.plans.map(function (plan) {
                  return JSON.parse(plan);
                }),
              )
            : window.ochreMap.mount(el, JSON.parse(x.plan), { level: 2 });
        },
        resize: function () {
          if (map) map.resize();
        },
      };
    },
  });
})();
