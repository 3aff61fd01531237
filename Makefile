# The two set-up commands are `make demo` and `make test`; the rest are for working on Ochre.
SHELL := /bin/bash
export LC_ALL := C.UTF-8
BUILD := build
SOURCES := $(shell find R src inst DESCRIPTION NAMESPACE -type f -not -name '*.o' -not -name '*.so')
CORE := $(wildcard src/core/*.cpp)
CORE_OBJECTS := $(CORE:src/core/%.cpp=$(BUILD)/core/%.o)
CORE_TESTS := $(wildcard tests/core/*.cpp)
# For tests and fuzzers: the sanitizers, and marks of the branches that an input takes.
SANITIZE := -std=c++17 -O1 -gline-tables-only -pthread -fsanitize=fuzzer-no-link,address,undefined \
  -fno-sanitize-recover=undefined
# One portable kernel of simdjson is enough here; all of them under the sanitizers take minutes.
KERNELS := -DSIMDJSON_IMPLEMENTATION_HASWELL=0
SIMDJSON_FOLDER := cat(system.file("include", package = "RcppSimdJson"))
# Asked for once, when it is first needed.
SIMDJSON = $(eval SIMDJSON := $$(shell Rscript -e '$(SIMDJSON_FOLDER)'))$(SIMDJSON)

# Tests run against a library of their own, so that two checkouts can be tested at once and the
# machine's library stays as it is.
LIBRARY := $(CURDIR)/$(BUILD)/library
OWN_LIBRARY := $(LIBRARY)$(if $(R_LIBS),:$(R_LIBS))
test-r test-cluster test-page test-fuzz fuzz test-docs check document bench bench-smoke \
  screenshots site: export R_LIBS := $(OWN_LIBRARY)

.PHONY: demo test one hooks setup-demo setup-test install library lint format test-core test-fuzz fuzz \
  test-viewer test-r test-cluster test-page test-stranger test-docs check bench bench-smoke viewer document screenshots site test-latest coverage clean

demo: setup-demo install
	@inst/bin/ochre demo maps --force
	@echo "The maps are in $(CURDIR)/maps: open map.html in a browser."

# What keeps one processor busy runs beside what keeps another.
test: setup-test lint library test-core test-fuzz
	@$(MAKE) -s -j2 --output-sync=target test-viewer test-docs
	@$(MAKE) -s test-r test-page test-stranger
	@$(MAKE) -s -j2 --output-sync=target bench-smoke check
	@echo "All tests passed."

# A tool that is not there is named with what brings it.
needs-%:
	@command -v $* > /dev/null || { echo "$* is missing: run 'make setup-test'."; exit 1; }

setup-demo:
	@tools/setup.sh demo
setup-test:
	@tools/setup.sh test

# Looks at what is committed, before it is.
hooks:
	git config core.hooksPath tools/hooks

# For the user: into R's library, with the command on the PATH.
install: $(BUILD)/installed
$(BUILD)/installed: $(SOURCES)
	@mkdir -p $(BUILD)
	@tools/build-package.sh $@ > $(BUILD)/install.log 2>&1 || { tail -30 $(BUILD)/install.log; exit 1; }
	@tools/link-command.sh
	@touch $@

# For the tests: into build/library.
library: $(BUILD)/library-made
$(BUILD)/library-made: $(SOURCES)
	@mkdir -p $(LIBRARY)
	@tools/copy-installed.sh $(BUILD)/installed $(LIBRARY) || \
	  tools/build-package.sh $@ --library=$(LIBRARY) > $(BUILD)/library.log 2>&1 || { tail -30 $(BUILD)/library.log; exit 1; }
	@touch $@

# ---- how code looks ----------------------------------------------------------------------------

CPP_FILES := $(wildcard src/core/*.cpp src/core/*.hpp src/binding-*.cpp src/*.h \
  tests/core/*.cpp tests/fuzz/*.cpp tests/fuzz/*.hpp bench/*.cpp)
JS_FILES := 'viewer/src/*.{ts,css}' 'viewer/test/*.ts' 'viewer/*.mjs' 'tests/page/*.mjs' 'tools/*.mjs' 'bench/*.mjs'

# What the formatters and linters find: nothing.
lint: needs-clang-format needs-clang-tidy needs-x86_64-w64-mingw32-g++-posix $(BUILD)/node_modules
	@clang-format --dry-run -Werror $(CPP_FILES)
	@$(MAKE) -s -j2 $(CORE:src/core/%.cpp=$(BUILD)/tidy/%) \
	  $(patsubst src/%.cpp,$(BUILD)/windows/%,$(CORE) $(wildcard src/*.cpp))
	viewer/node_modules/.bin/prettier --check --log-level warn $(JS_FILES)
	cd viewer && npm run -s lint
	Rscript tools/check-sizes.R
	Rscript tools/check-texts.R
	Rscript tools/lint.R

# With the standard library of other systems, which lacks what this one has.
$(BUILD)/tidy/%: src/core/%.cpp .clang-tidy $(wildcard src/core/*.hpp)
	@mkdir -p $(@D)
	clang-tidy --quiet $< -- -std=c++17 -stdlib=libc++ -isystem $(SIMDJSON) 2> $@.log || { cat $@.log; exit 1; }
	@touch $@

# What Windows' compiler says of every source, without making anything of it.
WINDOWS := x86_64-w64-mingw32-g++-posix -std=c++17 -fsyntax-only -Isrc
RCPP_FOLDERS = $(eval RCPP_FOLDERS := $$(shell Rscript -e \
  'cat(paste("-isystem", c(system.file("include", package = "Rcpp"), R.home("include"))))'))$(RCPP_FOLDERS)
$(BUILD)/windows/%: src/%.cpp $(wildcard src/*.h src/core/*.hpp)
	@mkdir -p $(@D)
	$(WINDOWS) -isystem $(SIMDJSON) $(RCPP_FOLDERS) $<
	@touch $@

# Lays out what was changed.
format: $(BUILD)/node_modules
	clang-format -i $(CPP_FILES)
	viewer/node_modules/.bin/prettier --write --log-level warn $(JS_FILES)
	Rscript tools/format.R

# ---- tests ----------------------------------------------------------------------------------

# The core by itself: no header and no library of R, with the sanitizers on.
$(BUILD)/core/%.o: src/core/%.cpp $(wildcard src/core/*.hpp)
	@mkdir -p $(@D)
	clang++ $(SANITIZE) -Wall -Wextra $(KERNELS) -isystem $(SIMDJSON) -c $< -o $@
$(BUILD)/tests/%.o: tests/core/%.cpp $(wildcard src/core/*.hpp)
	@mkdir -p $(@D)
	clang++ $(SANITIZE) -Wall -Wextra -Isrc/core -c $< -o $@
$(BUILD)/test-core: $(CORE_OBJECTS) $(CORE_TESTS:tests/core/%.cpp=$(BUILD)/tests/%.o)
	clang++ $(SANITIZE) $^ -o $@
test-core: needs-clang++
	@$(MAKE) -s -j2 $(BUILD)/test-core
	$(BUILD)/test-core

# Each parser alone under a fuzzer that watches which branches an input takes, and those in R with random
# mutations: a short bounded run in `make test`, twenty minutes each with `make fuzz` (or SECONDS=).
FUZZ_CORE := $(notdir $(basename $(wildcard tests/fuzz/fuzz-*.cpp)))
FUZZ_WORDS := fuzz-addresses fuzz-templates fuzz-sheets
SHORT := 4
LONG := 1200
$(BUILD)/fuzz/%: tests/fuzz/%.cpp tests/fuzz/fuzz.hpp $(CORE_OBJECTS)
	@mkdir -p $(@D)
	clang++ $(SANITIZE) -fsanitize=fuzzer -Isrc/core $< $(CORE_OBJECTS) -o $@
test-fuzz: needs-clang++ library
	@$(MAKE) -s -j2 $(FUZZ_CORE:%=$(BUILD)/fuzz/%)
	@tools/run-fuzz.sh $(SHORT) $(FUZZ_CORE) $(FUZZ_WORDS)
fuzz:
	@$(MAKE) test-fuzz SHORT=$(or $(SECONDS),$(LONG))

$(BUILD)/node_modules: viewer/package.json viewer/package-lock.json | needs-npm
	@mkdir -p $(BUILD)
	cd viewer && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

test-viewer: $(BUILD)/node_modules
	cd viewer && npm run -s check && npm run -s test
	tools/check-viewer-current.sh

test-r: library
	Rscript tests/testthat.R

# One file, on a build without what takes time: `make one FILE=join`.
one:
	@mkdir -p $(BUILD)/quick
	@tools/build-package.sh $(BUILD)/quick-made --no-byte-compile --no-docs --no-test-load \
	  --library=$(CURDIR)/$(BUILD)/quick > $(BUILD)/quick.log 2>&1 || { tail -30 $(BUILD)/quick.log; exit 1; }
	@touch $(BUILD)/quick-made
	@R_LIBS=$(CURDIR)/$(BUILD)/quick:$(R_LIBS) Rscript tests/testthat.R $(FILE:test-%=%)

# What runs on ClickHouse, too; the first time this installs it.
test-cluster: library
	tools/test-cluster.sh

test-page: library $(BUILD)/node_modules
	@rm -rf $(BUILD)/maps && inst/bin/ochre demo $(BUILD)/maps 2> $(BUILD)/demo.log
	tools/test-pages.sh $(CURDIR)/$(BUILD)/maps

# The first command of the README on a fresh clone.
test-stranger:
	tools/test-stranger.sh

# What roxygen and Rcpp generate is committed; this fails when it is out of date.
test-docs: library
	tools/check-documents-current.sh

check: library $(BUILD)/checked
$(BUILD)/checked: $(SOURCES) $(wildcard vignettes/*.Rmd man/*.Rd)
	tools/check-package.sh
	@touch $@

# ---- for working on Ochre -------------------------------------------------------------------

viewer: $(BUILD)/node_modules
	cd viewer && npm run -s build

document: library
	Rscript -e 'Rcpp::compileAttributes()' -e 'suppressMessages(roxygen2::roxygenise(load_code = "installed"))'
	Rscript tools/make-schema.R
	Rscript tools/document-plan.R
	Rscript tools/document-messages.R

bench: setup-test library $(BUILD)/node_modules
	$(MAKE) -C bench

# Every benchmark once at a small size.
bench-smoke: library $(BUILD)/node_modules
	OCHRE_BENCH=small $(MAKE) -s -C bench > $(BUILD)/bench-smoke.log 2>&1 || \
	  { tail -30 $(BUILD)/bench-smoke.log; exit 1; }

screenshots: library $(BUILD)/node_modules
	tools/screenshots.sh

# Which lines the tests run; needs package covr. The viewer's by its own tests, without a browser.
coverage: library $(BUILD)/node_modules
	cd viewer && node build.mjs --tests && node_modules/.bin/c8 --exclude-after-remap --reporter=text \
	  --temp-directory ../$(BUILD)/c8 node --test --test-reporter=dot .tests/
	rm -rf $(BUILD)/coverage && git clone -q . $(BUILD)/coverage
	cd $(BUILD)/coverage && Rscript tools/coverage.R

# The documents as pages under build/site; needs package pkgdown.
site: library
	Rscript -e 'options(pkgdown.internet = FALSE)' \
	  -e 'pkgdown::build_site(preview = FALSE, install = FALSE, new_process = FALSE)'

# The R tests with today's packages of CRAN, in a library of their own.
test-latest:
	tools/test-latest.sh

clean:
	rm -rf $(BUILD) maps src/*.o src/*.so src/core/*.o viewer/node_modules viewer/.tests
