# Scripts of R that the command takes where words are not enough: connections, machines.

# The value of a script's last line. `wants` says what `option` takes.
script_value <- function(script, option, wants) {
  if (!file.exists(script)) {
    ochre_abort("file", "There is no file `{script}`.", "{option} takes an R script that {wants}.",
                file = script)
  }
  tryCatch(source(script, local = new.env(parent = globalenv()))$value, error = function(e) {
    ochre_abort("argument", "`{script}` fails: {strip_period(conditionMessage(e))}.", arg = option)
  })
}
