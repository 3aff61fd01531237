// The preview of a sheet: takes what R says over a socket, shows the map, and what is wrong.
const root = document.getElementById("ochre-map");
const said = document.getElementById("said");
let held = null;
let shown = false;

function add(tag, name, text, parent) {
  const made = document.createElement(tag);
  if (name) made.className = name;
  if (text) made.textContent = text;
  parent.append(made);
  return made;
}

function showError({ what, mend, file, line, lines }) {
  const box = add("section", "wrong", null, said);
  box.setAttribute("role", "alert");
  add("h2", "", line ? `${file}, line ${line}` : file || "The sheet", box);
  add("p", "", what, box);
  for (const text of mend) add("p", "mend", text, box);
  if (!lines || !lines.length) return;
  const code = add("pre", "", null, box);
  for (const { at, text } of lines)
    add("span", at === line ? "here" : "", `${String(at).padStart(4)}  ${text}\n`, code);
}

function showWarnings(warnings, note) {
  if (!warnings.length && !note) return;
  const box = add("details", "notes", null, said);
  box.open = shown;
  box.addEventListener("toggle", () => (shown = box.open));
  const many = warnings.length;
  const count = many ? `${many} warning${many > 1 ? "s" : ""}` : "Note";
  add("summary", "", count, box);
  if (note) add("p", "", note, box);
  for (const { what, mend } of warnings) {
    add("p", "", what, box);
    for (const text of mend) add("p", "mend", text, box);
  }
}

function take({ build, title, note, warnings, error, page, took }) {
  said.replaceChildren();
  if (error) showError(error);
  showWarnings(warnings, note);
  if (title) document.title = title;
  if (page && held) held.renew(page);
  else if (page) held = new window.ochreHeld(root, page, { level: 1 });
  document.documentElement.dataset.build = build;
  document.documentElement.dataset.took = took;
}

function listen() {
  const socket = new WebSocket(`ws://${location.host}/`);
  socket.addEventListener("message", (e) => take(JSON.parse(e.data)));
  socket.addEventListener("close", () => {
    said.replaceChildren();
    const box = add("section", "wrong", null, said);
    add("p", "", "The preview has ended. This page goes on when it is started again.", box);
    if (held) held.dispose();
    held = null;
    setTimeout(listen, 1000);
  });
}

listen();
