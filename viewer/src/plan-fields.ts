// Made from inst/schema/plan.schema.json by viewer/generate.mjs; do not edit.

export const VERSION = 4;

// The fields of a plan and of its parts: name, letters of the types (a array, b boolean,
// n number, o object, s string, - null), and which parts stand there. A part has its kind before
// its fields.
export const whole =
  "version:n locale:s alt:s title:s subtitle:-s source:-s source_link:-s note:-s ground:s inks:o:0 style:o:1 panels:a- words:o marks:o:3 page:o:4 dark:-o:6 projection:o:7 frame:a backdrops:a:8:9:11 overlays:a:9:11 insets:a:12 topology:o:13 layers:a:14:25:32:34:36:37";
export const parts: [string, string][] = [
  ["", "ground:s text:s soft:s faint:s line:s rim:s"],
  ["", "legend:o:2"],
  ["", "place:-s counts:b histogram:b"],
  ["", "decimal:s thousands:s"],
  [
    "",
    "hover:s click:s search:b layers:b bars:n table:b download:b tools:a places:-s cards:a-:5 zooms:a view:a-",
  ],
  ["", "label:s value:s"],
  ["", "inks:o:0 layers:a"],
  ["", "name:s lon0:n lat0:n lat1:n lat2:n"],
  ["plain", "kind:s name:s"],
  ["tiles", "kind:s name:s attribution:s link:-s opacity:n url:s levels:a:10"],
  ["", "id:s metres:n x:n y:n width:n height:n columns:n rows:n up:b around:b"],
  ["picture", "kind:s name:s attribution:s link:-s opacity:n address:s cells:n x:a y:a"],
  ["", "frame:a label:s"],
  ["", ""],
  [
    "areas",
    "kind:s id:s name:s legend:-s legend_note:-s show:-o:15 zoomed:-o:16 class:a counts:a count_labels:a no_data:o:19 share:a- rank:a- values:a- numbers:a- hover:a- popup:-o:20 labels:a colours:a outline:s border:n spacing:-n histogram:-o:21 hatch:-o:22 square:-o:23 names:a- codes:a- panels:a-:24 regions:a-",
  ],
  ["", "off:b opacity:n zooms:a-"],
  ["", "size:-o:17 width:-o:17 dash:-o:18"],
  ["", "zooms:a values:a stepped:b"],
  ["", "zooms:a values:a stepped:b"],
  ["", "label:s colour:s count:n count_label:s"],
  ["", "labels:a kinds:a fields:a texts:a-"],
  ["", "counts:a class:a breaks:a ends:a"],
  ["", "class:n colour:s"],
  ["", "n:n titles:a first:a second:a"],
  [
    "",
    "class:a counts:a count_labels:a no_data:o:19 share:a- rank:a- values:a- numbers:a- hover:a- popup:-o:20 labels:a- colours:a- histogram:-o:21 hatch:-o:22",
  ],
  [
    "symbols",
    "kind:s id:s name:s legend:-s legend_note:-s show:-o:15 zoomed:-o:16 hover:a- popup:-o:20 x:a y:a r:a sizes:o:26 key:-o:27 colour:s opacity:n rim:s group:b plain:b panel:a- outline:-o:28 bar:-o:29 second:-o:30 from:-o:31 names:a- codes:a- regions:a- values:a- numbers:a-",
  ],
  ["", "labels:a r:a"],
  ["", "legend:s class:a labels:a colours:a count_labels:a no_data:o:19"],
  ["", "x:a y:a"],
  ["", "width:n height:a marks:a"],
  ["", "r:a colour:s labels:a"],
  ["", "x:a y:a"],
  [
    "lines",
    "kind:s id:s name:s legend:-s legend_note:-s show:-o:15 zoomed:-o:16 hover:a- popup:-o:20 colour:s width:a widths:-o:33 dash:a- casing:-s arrow:b key:-o:27 names:a- codes:a- regions:a-",
  ],
  ["", "labels:a width:a"],
  [
    "density",
    "kind:s id:s name:s legend:-s legend_note:-s show:-o:15 zoomed:-o:16 hover:a- popup:-o:20 labels:a colours:a opacity:n grid:o:35",
  ],
  ["", "x0:n y0:n cell:n columns:n rows:n runs:a class:a"],
  [
    "heat",
    "kind:s id:s name:s legend:-s legend_note:-s show:-o:15 zoomed:-o:16 hover:a- popup:-o:20 x:a y:a weight:a- radius:n labels:a colours:a opacity:n",
  ],
  [
    "labels",
    "kind:s id:s name:s legend:-s legend_note:-s show:-o:15 zoomed:-o:16 hover:a- popup:-o:20 x:a y:a text:a r:a scale:n colour:s halo:-s bold:b centred:b inks:a- halos:a- ink:a- over:a-",
  ],
];
