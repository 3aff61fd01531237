// Made from inst/schema/plan.schema.json by viewer/generate.mjs; do not edit.

export const VERSION = 5;

// The fields of a plan and of its parts: name, letters of the types (a array, b boolean,
// n number, o object, s string, - null), and which parts stand there. A part has its kind before
// its fields.
export const whole =
  "version:n locale:s alt:s title:s subtitle:-s source:-s source_link:-s note:-s ground:s inks:o:0 style:o:1 panels:a- words:o marks:o:3 page:o:4 dark:-o:7 projection:o:8 frame:a backdrops:a:9:10:12 overlays:a:10:12 insets:a:13 topology:o:14 layers:a:15:28:35:37:39:40 sections:-o:41";
export const parts: [string, string][] = [
  ["", "ground:s text:s soft:s faint:s line:s rim:s"],
  ["", "legend:o:2"],
  ["", "place:-s counts:b histogram:b"],
  ["", "decimal:s thousands:s"],
  [
    "",
    "hover:s click:s search:b layers:b bars:n table:b download:b tools:a places:-s cards:a-:5 zooms:a view:a- scale_bar:b locator:b live:-o:6",
  ],
  ["", "label:s value:s"],
  ["", "address:-s every:n"],
  ["", "inks:o:0 layers:a"],
  ["", "name:s lon0:n lat0:n lat1:n lat2:n"],
  ["plain", "kind:s name:s"],
  ["tiles", "kind:s name:s attribution:s link:-s opacity:n url:s levels:a:11"],
  ["", "id:s metres:n x:n y:n width:n height:n columns:n rows:n up:b around:b"],
  ["picture", "kind:s name:s attribution:s link:-s opacity:n address:s cells:n x:a y:a"],
  ["", "frame:a label:s"],
  ["", ""],
  [
    "areas",
    "kind:s id:s name:s legend:-s legend_note:-s show:-o:16 zoomed:-o:17 class:a counts:a count_labels:a no_data:o:20 share:a- repeated:a- rank:a- values:a- numbers:a- hover:a- popup:-o:21 labels:a colours:a outline:s border:n spacing:-n histogram:-o:22 hatch:-o:23 square:-o:24 names:a- codes:a- panels:a-:25 live:-o:26 regions:a-",
  ],
  ["", "off:b opacity:n zooms:a-"],
  ["", "size:-o:18 width:-o:18 dash:-o:19"],
  ["", "zooms:a values:a stepped:b"],
  ["", "zooms:a values:a stepped:b"],
  ["", "label:s colour:s count:n count_label:s"],
  ["", "labels:a kinds:a fields:a texts:a- numbers:a-"],
  ["", "counts:a class:a breaks:a ends:a"],
  ["", "class:n colour:s"],
  ["", "n:n titles:a first:a second:a numbers:a- texts:a-"],
  [
    "",
    "class:a counts:a count_labels:a no_data:o:20 share:a- rank:a- values:a- numbers:a- hover:a- popup:-o:21 labels:a- colours:a- histogram:-o:22 hatch:-o:23",
  ],
  [
    "",
    "breaks:a right:b percent:b digits:n true:b plus:b grouped:b unit:-s missing:s hover:a- fields:a:27",
  ],
  ["", "texts:a alone:b"],
  [
    "symbols",
    "kind:s id:s name:s legend:-s legend_note:-s show:-o:16 zoomed:-o:17 hover:a- popup:-o:21 x:a y:a r:a sizes:o:29 key:-o:30 colour:s opacity:n rim:s group:b plain:b panel:a- outline:-o:31 bar:-o:32 second:-o:33 from:-o:34 names:a- codes:a- regions:a- values:a- numbers:a-",
  ],
  ["", "labels:a r:a"],
  ["", "legend:s class:a labels:a colours:a count_labels:a no_data:o:20"],
  ["", "x:a y:a"],
  ["", "width:n height:a marks:a"],
  ["", "r:a colour:s labels:a"],
  ["", "x:a y:a"],
  [
    "lines",
    "kind:s id:s name:s legend:-s legend_note:-s show:-o:16 zoomed:-o:17 hover:a- popup:-o:21 colour:s width:a widths:-o:36 dash:a- casing:-s arrow:b key:-o:30 names:a- codes:a- regions:a-",
  ],
  ["", "labels:a width:a"],
  [
    "density",
    "kind:s id:s name:s legend:-s legend_note:-s show:-o:16 zoomed:-o:17 hover:a- popup:-o:21 labels:a colours:a opacity:n grid:o:38",
  ],
  ["", "x0:n y0:n cell:n columns:n rows:n runs:a class:a"],
  [
    "heat",
    "kind:s id:s name:s legend:-s legend_note:-s show:-o:16 zoomed:-o:17 hover:a- popup:-o:21 x:a y:a weight:a- radius:n labels:a colours:a opacity:n",
  ],
  [
    "labels",
    "kind:s id:s name:s legend:-s legend_note:-s show:-o:16 zoomed:-o:17 hover:a- popup:-o:21 x:a y:a text:a r:a scale:n colour:s halo:-s bold:b centred:b inks:a- halos:a- ink:a- over:a-",
  ],
  [
    "",
    "layer:n areas:s ranked:a box:a cells:n classes:n picture:a level:a column:a row:a kind:a hash:a folder:s table:-s names:-o:42",
  ],
  ["", "from:a hash:a"],
];
