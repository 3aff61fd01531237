document:
	Rscript -e 'Rcpp::compileAttributes()' -e 'roxygen2::roxygenise(load_code = "source")'
