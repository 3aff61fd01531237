# What a sheet is resolved in: its language and its ground, light or dark. Made once for a sheet and
# handed on to everything that writes a word or picks a colour.

# `locale` is what check_locale() gives, `ground` is "light" or "dark"; `contract` says what the
# parts of a plan hold, `cache` keeps what geometry costs, or is NULL.
new_setting <- function(locale, ground, cache = NULL) {
  structure(
    list(locale = locale, ground = ground, contract = plan_contract(), cache = cache),
    class = "ochre_setting"
  )
}

# Lightness, chroma and hue of CIE L*C*h(ab) of what stands beside the data: words, lines,
# outlines, halos, paper.
inks <- list(
  light = list(
    ground = c(100, 0, 0), text = c(22, 4, 70), soft = c(44, 4, 75), faint = c(62, 3, 75),
    line = c(35, 10, 262), outline = c(97, 0, 0), symbol = c(36, 26, 268),
    second = c(58, 52, 52), rim = c(100, 0, 0), paper = c(98, 1, 90),
    hatch = c(52, 4, 262), land = c(88, 4, 85),
    grid = c(86, 2, 240)
  ),
  dark = list(
    ground = NULL, text = c(92, 3, 85), soft = c(74, 4, 85), faint = c(56, 3, 85),
    line = c(78, 8, 262), outline = c(16, 2, 262), symbol = c(76, 24, 262),
    second = c(74, 44, 62), rim = c(14, 2, 262), paper = c(24, 3, 262),
    hatch = c(68, 4, 262), land = c(34, 3, 262),
    grid = c(30, 2, 262)
  )
)

ink_colour <- function(name, ground) {
  if (name == "ground") return(page_colour(ground))
  path <- inks[[ground]][[name]]
  lab_to_hex(in_gamut(path[1], path[2], path[3]))
}

# What renderers need beside the layers' own colours.
plan_inks <- function(ground) {
  names <- c("ground", "text", "soft", "faint", "line", "rim")
  vapply(stats::setNames(nm = names), ink_colour, "", ground = ground)
}

# The entry of what has no value.
no_data_entry <- function(count, setting) {
  list(
    label = setting$locale$no_data,
    colour = no_data_colour(setting$ground),
    count = count,
    count_label = format_number(count, 0, locale = setting$locale)
  )
}
