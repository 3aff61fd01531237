# Installs what Ochre imports, with all that this needs, into a library, where CRAN has another
# version than is there: `Rscript tools/install-latest.R LIBRARY`.
library <- commandArgs(TRUE)[1]
repos <- getOption("repos")
if (identical(unname(repos["CRAN"]), "@CRAN@")) chooseCRANmirror(ind = 1)
fields <- read.dcf("DESCRIPTION", c("Imports", "LinkingTo"))
wanted <- trimws(sub("[(].*", "", unlist(strsplit(fields[!is.na(fields)], ","))))
available <- available.packages()
deep <- unlist(tools::package_dependencies(wanted, available, recursive = TRUE))
wanted <- intersect(unique(c(wanted, deep)), rownames(available))
there <- installed.packages(library)
newest <- available[wanted, "Version"]
known <- match(wanted, rownames(there))
old <- wanted[is.na(known) | there[known, "Version"] != newest]
base <- rownames(installed.packages(priority = "base"))
install.packages(setdiff(old, base), lib = library, quiet = TRUE)
