# What a shell and `man` are told of the command: made from its own help, so that it is never
# another.

command_completion <- function(args) {
  given <- parse_command(
    "completion",
    args,
    "SHELL",
    "Prints what bash, zsh or fish need to complete commands, options and files.",
    list(),
    c(1, 1)
  )
  if (is.null(given)) return(0L)
  shell <- given$args
  if (!shell %in% c("bash", "zsh", "fish")) {
    usage_error("SHELL is bash, zsh or fish.", "completion")
  }
  flags <- lapply(stats::setNames(nm = names(commands)), flags_of)
  cat(switch(shell,
    bash = bash_completion(flags), zsh = zsh_completion(flags), fish = fish_completion(flags)
  ), sep = "\n")
  0L
}

command_manual <- function(args) {
  given <- parse_command(
    "manual", args, "", "Prints the manual page: `ochre manual | man -l -` shows it.", list(),
    c(0, 0)
  )
  if (is.null(given)) return(0L)
  cat(manual_page(), sep = "\n")
  0L
}

help_of <- function(command) {
  utils::capture.output(invisible(dispatch(c(command, "--help"))))
}

# The long options of a command with what its help says of each.
flags_of <- function(command) {
  lines <- help_of(command)
  at <- grep("^\\s+(-[a-z], )?--[a-z-]+", lines)
  flag <- sub("^\\s+(-[a-z], )?(--[a-z-]+).*$", "\\2", lines[at])
  about <- trimws(lines[pmin(at + 1, length(lines))])
  stats::setNames(about, flag)
}

# ---- shells --------------------------------------------------------------------------------------

bash_completion <- function(flags) {
  cases <- sprintf("    %s) words=\"%s\" ;;", names(flags), vapply(flags, function(f) {
    paste(names(f), collapse = " ")
  }, ""))
  c(
    "# Completion of the command ochre for bash: source this file.",
    "_ochre() {",
    "  local here=${COMP_WORDS[COMP_CWORD]} words=",
    "  COMPREPLY=()",
    "  if [ \"$COMP_CWORD\" = 1 ]; then",
    sprintf("    COMPREPLY=($(compgen -W \"%s --help --version\" -- \"$here\"))",
            paste(names(flags), collapse = " ")),
    "    return",
    "  fi",
    "  case ${COMP_WORDS[1]} in",
    cases,
    "  esac",
    "  if [ \"${COMP_WORDS[1]}\" = completion ]; then words=\"bash zsh fish\"; fi",
    "  case $here in",
    "    -*) COMPREPLY=($(compgen -W \"$words\" -- \"$here\")) ;;",
    "    *) [ \"${COMP_WORDS[1]}\" = completion ] &&",
    "      COMPREPLY=($(compgen -W \"$words\" -- \"$here\")) ;;",
    "  esac",
    "}",
    "complete -o default -F _ochre ochre"
  )
}

zsh_completion <- function(flags) {
  quoted <- function(x) {
    gsub("'", "'\\''", gsub("([\\[\\]:\\\\])", "\\\\\\1", x, perl = TRUE), fixed = TRUE)
  }
  cases <- vapply(names(flags), function(command) {
    given <- sprintf("'%s[%s]'", names(flags[[command]]), quoted(flags[[command]]))
    sprintf("    %s) _arguments %s '*:file:_files' ;;", command, paste(given, collapse = " "))
  }, "")
  c(
    "#compdef ochre",
    "# Completion of the command ochre for zsh: put this file as _ochre on the fpath.",
    "_ochre() {",
    "  if (( CURRENT == 2 )); then",
    sprintf("    local -a all=(%s)",
            paste0("'", names(commands), ":", quoted(unlist(commands)), "'", collapse = " ")),
    "    _describe command all",
    "    return",
    "  fi",
    "  local command=$words[2]",
    "  shift words; (( CURRENT-- ))",
    "  case $command in",
    sub("^    completion\\) .*$", "    completion) _values shell bash zsh fish ;;", cases),
    "  esac",
    "}",
    "if [ \"$funcstack[1]\" = _ochre ]; then _ochre \"$@\"; else compdef _ochre ochre; fi"
  )
}

fish_completion <- function(flags) {
  quoted <- function(x) paste0("'", gsub("(['\\\\])", "\\\\\\1", x), "'")
  some <- "__fish_seen_subcommand_from"
  c(
    "# Completion of the command ochre for fish: put this file into its completions as ochre.fish.",
    sprintf("complete -c ochre -n __fish_use_subcommand -f -a %s -d %s", names(commands),
            quoted(unlist(commands))),
    unlist(lapply(names(flags), function(command) {
      sprintf("complete -c ochre -n '%s %s' -l %s -d %s", some, command,
              sub("^--", "", names(flags[[command]])), quoted(flags[[command]]))
    })),
    sprintf("complete -c ochre -n '%s completion' -f -a 'bash zsh fish'", some)
  )
}

# ---- man -----------------------------------------------------------------------------------------

# A line of roff: a backslash and a mark at the beginning mean themselves.
roff <- function(lines) {
  lines <- gsub("\\", "\\e", lines, fixed = TRUE)
  lines <- gsub("-", "\\-", lines, fixed = TRUE)
  lines <- gsub("\u2026", "...", lines, fixed = TRUE)
  sub("^([.'])", "\\\\&\\1", lines)
}

manual_page <- function() {
  c(
    sprintf(".TH OCHRE 1 \"\" \"Ochre %s\" \"User Commands\"", utils::packageVersion("ochre")),
    ".SH NAME",
    roff("ochre - from a table and boundaries to a published map"),
    ".SH SYNOPSIS",
    ".B ochre",
    "COMMAND [OPTIONS] [ARGUMENTS]",
    ".SH COMMANDS",
    unlist(lapply(names(commands), function(command) {
      c(".SS", roff(command), ".nf", roff(help_of(command)), ".fi")
    })),
    ".SH ENVIRONMENT",
    ".TP",
    ".B OCHRE_VALUE_NAME",
    "The named value of a sheet, in place of its own.",
    ".TP",
    ".B R_USER_CACHE_DIR",
    "Where tables and geometry are kept between builds.",
    ".SH EXIT STATUS",
    roff(exit_words)
  )
}
