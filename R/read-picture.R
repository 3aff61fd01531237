# What a picture's file says of itself (kind and size), and where a world file puts it. Sources:
# ISO/IEC 15948 (PNG), ITU-T T.81 (JPEG).

picture_limit <- 20e6  # bytes of one picture that becomes a part of a page
picture_pixels <- 5e7  # of one that is unpacked for drawing; a few bytes may unpack to very many

# The bytes of a picture, with its media type and size in pixels (NA where a page needs none).
read_picture <- function(path, limit = picture_limit, call = rlang::caller_env()) {
  check_file(path, call = call)
  size <- file.size(path)
  if (size > limit) {
    ochre_abort(
      "picture",
      "`{path}` has {size_words(size)}; a picture in a page may have {size_words(limit)}.",
      "Save it smaller.", file = path
    )
  }
  bytes <- readBin(path, "raw", size)
  type <- picture_type(bytes)
  if (is.na(type)) {
    ochre_abort("picture", "`{path}` is no picture that a browser shows.",
                "Save it as PNG or JPEG.", file = path)
  }
  size <- picture_size(bytes, type)
  if (isTRUE(size$width * size$height > picture_pixels)) {
    ochre_abort(
      "picture",
      paste0("`{path}` has {format_number(size$width, 0)} by {format_number(size$height, 0)} ",
             "pixels, too many for a page."), "Save it smaller.", file = path
    )
  }
  c(list(bytes = bytes, type = type), size)
}

picture_starts <- list(
  png = as.raw(c(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)),
  jpeg = as.raw(c(0xff, 0xd8, 0xff)),
  gif = charToRaw("GIF8")
)
picture_type <- function(bytes) {
  for (type in names(picture_starts)) {
    if (length(bytes) > 24 && identical(
        bytes[seq_along(picture_starts[[type]])],
        picture_starts[[type]]
      )) {
      return(type)
    }
  }
  if (length(bytes) > 24 && identical(bytes[c(1:4, 9:12)], charToRaw("RIFFWEBP"))) {
    "webp"
  } else {
    NA_character_
  }
}

picture_size <- function(bytes, type) {
  number <- function(at, n = 2) sum(as.integer(bytes[at + seq_len(n) - 1]) * 256^((n - 1):0))
  if (type == "png") return(list(width = number(17, 4), height = number(21, 4)))
  if (type != "jpeg") return(list(width = NA_real_, height = NA_real_))
  # Segment after segment until the frame: SOF0 to SOF15 without the tables between them.
  at <- 3
  while (at + 8 <= length(bytes) && bytes[at] == 0xff) {
    mark <- as.integer(bytes[at + 1])
    if (mark == 0xff) {
      at <- at + 1
      next
    }
    if (mark >= 0xc0 && mark <= 0xcf && !mark %in% c(0xc4, 0xc8, 0xcc)) {
      return(list(width = number(at + 7), height = number(at + 5)))
    }
    at <- at + 2 + if (mark %in% c(0x01, 0xd0:0xd8)) 0 else number(at + 2)
  }
  list(width = NA_real_, height = NA_real_)
}

data_address <- function(picture) {
  sprintf(
    "data:image/%s;base64,%s",
    picture$type,
    gsub("\n", "", jsonlite::base64_enc(picture$bytes), fixed = TRUE)
  )
}

# The six numbers of a world file: x and y of a pixel's middle are A c + B r + C and D c + E r +
# F, written as A D B E C F.
read_world <- function(picture, world, call = rlang::caller_env()) {
  world <- world %||% find_world(picture, call)
  path <- check_file(world, call = call)
  number <- suppressWarnings(as.numeric(scan(path, "", quiet = TRUE, nmax = 7)))
  flat <- function() number[1] * number[4] == number[2] * number[3]
  if (length(number) != 6 || any(!is.finite(number)) || flat()) {
    ochre_abort(
      "picture", "`{world}` is no world file: it must hold six numbers that give a picture room.",
      paste0("One a line: two for a step to the right, two for a step down, two for the first ",
             "pixel's place."), file = world
    )
  }
  function(column, row) {
    cbind(
      number[1] * column + number[3] * row + number[5],
      number[2] * column + number[4] * row + number[6]
    )
  }
}

# The world file that lies beside a picture.
find_world <- function(picture, call) {
  stem <- tools::file_path_sans_ext(picture)
  end <- lower_case(tools::file_ext(picture))
  short <- paste0(substr(end, 1, 1), substring(end, nchar(end)), "w")
  known <- paste0(stem, ".", c(short, paste0(end, "w"), "wld", "PGW", "JGW"))
  there <- known[file.exists(known)]
  if (length(there)) return(there[1])
  ochre_abort("picture", "`{picture}` has no `corners` and no world file beside it.",
              "Say `corners`, or put `{basename(known[1])}` beside it.", file = picture)
}
