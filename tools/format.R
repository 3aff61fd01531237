# Lays out the R files that differ from the last commit, by the tidyverse style. Line breaks,
# blanks and indentation only: short guards stay on their line.
changed <- system2("git", c("diff", "--name-only", "HEAD", "--", "*.R"), stdout = TRUE)
changed <- setdiff(changed[file.exists(changed)], "R/RcppExports.R")
if (length(changed)) styler::style_file(changed, scope = "line_breaks", strict = FALSE)
