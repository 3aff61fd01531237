# The words of the page's controls in each language: buttons, fields, what a screen reader hears. `{0}` and `{1}` stand for what is put in.

page_words <- list(
  en = c(legend = "Legend", details = "Details", close = "Close", keys = "Arrow keys move, plus and minus zoom, zero shows the whole map.", zoom_in = "Zoom in", zoom_out = "Zoom out", whole_map = "Show the whole map",
         sizes = "Sizes: {0}", switch_class = "Show or hide this class", periods = "Periods", period = "Period", play = "Play", pause = "Pause", before = "One back", after = "One on", speed = "Speed",
         trend = "Trend from {0} to {1}", rank = "Rank {0} of {1}"),
  de = c(legend = "Legende", details = "Einzelheiten", close = "Schlie\u00dfen", keys = "Pfeiltasten verschieben, Plus und Minus zoomen, Null zeigt die ganze Karte.", zoom_in = "Vergr\u00f6\u00dfern", zoom_out = "Verkleinern", whole_map = "Ganze Karte zeigen",
         sizes = "Gr\u00f6\u00dfen: {0}", switch_class = "Diese Klasse zeigen oder verbergen", periods = "Zeitr\u00e4ume", period = "Zeitraum", play = "Abspielen", pause = "Anhalten", before = "Zur\u00fcck", after = "Weiter", speed = "Tempo",
         trend = "Verlauf von {0} bis {1}", rank = "Rang {0} von {1}"),
  fr = c(legend = "L\u00e9gende", details = "D\u00e9tails", close = "Fermer", keys = "Les fl\u00e8ches d\u00e9placent, plus et moins zooment, z\u00e9ro montre toute la carte.", zoom_in = "Agrandir", zoom_out = "R\u00e9duire", whole_map = "Montrer toute la carte",
         sizes = "Tailles\u00a0: {0}", switch_class = "Montrer ou masquer cette classe", periods = "P\u00e9riodes", period = "P\u00e9riode", play = "Lire", pause = "Pause", before = "Pr\u00e9c\u00e9dente", after = "Suivante", speed = "Vitesse",
         trend = "\u00c9volution de {0} \u00e0 {1}", rank = "Rang {0} sur {1}"),
  es = c(legend = "Leyenda", details = "Detalles", close = "Cerrar", keys = "Las flechas mueven, m\u00e1s y menos acercan y alejan, cero muestra todo el mapa.", zoom_in = "Acercar", zoom_out = "Alejar", whole_map = "Mostrar todo el mapa",
         sizes = "Tama\u00f1os: {0}", switch_class = "Mostrar u ocultar esta clase", periods = "Periodos", period = "Periodo", play = "Reproducir", pause = "Pausa", before = "Anterior", after = "Siguiente", speed = "Velocidad",
         trend = "Evoluci\u00f3n de {0} a {1}", rank = "Puesto {0} de {1}"),
  pl = c(legend = "Legenda", details = "Szczeg\u00f3\u0142y", close = "Zamknij", keys = "Strza\u0142ki przesuwaj\u0105, plus i minus przybli\u017caj\u0105 i oddalaj\u0105, zero pokazuje ca\u0142\u0105 map\u0119.", zoom_in = "Przybli\u017c", zoom_out = "Oddal", whole_map = "Poka\u017c ca\u0142\u0105 map\u0119",
         sizes = "Wielko\u015bci: {0}", switch_class = "Poka\u017c lub ukryj t\u0119 klas\u0119", periods = "Okresy", period = "Okres", play = "Odtw\u00f3rz", pause = "Wstrzymaj", before = "Poprzedni", after = "Nast\u0119pny", speed = "Tempo",
         trend = "Przebieg od {0} do {1}", rank = "Miejsce {0} z {1}")
)

# Of a locale; the language's own where it has them.
locale_words <- function(base, given = NULL) utils::modifyList(as.list(page_words[[base]]), as.list(given))
