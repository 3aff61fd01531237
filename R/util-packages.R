# Packages that only some work needs: asked for by name when that work comes up.

has_package <- function(package) rlang::is_installed(package)

# `what` begins the sentence: "Reading a GeoPackage".
need_package <- function(package, what, call = rlang::caller_env()) {
  if (has_package(package)) return(invisible())
  ochre_abort("package", "{what} needs the package {package}, which is not installed.",
              "install.packages(\"{package}\")")
}
