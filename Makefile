# The two set-up commands are `make demo` and `make test`; the rest are for working on Ochre.
SHELL := /bin/bash
export LC_ALL := C.UTF-8
BUILD := build
SOURCES := $(shell find R src inst DESCRIPTION NAMESPACE -type f -not -name '*.o' -not -name '*.so')
CORE := $(wildcard src/core/*.cpp)
CORE_OBJECTS := $(CORE:src/core/%.cpp=$(BUILD)/core/%.o)
CORE_TESTS := $(wildcard tests/core/*.cpp)
SANITIZE := -std=c++17 -O1 -g -fsanitize=address,undefined -fno-sanitize-recover=undefined
# One portable kernel of simdjson is enough here; all of them under the sanitizers take minutes.
KERNELS := -DSIMDJSON_IMPLEMENTATION_HASWELL=0
SIMDJSON = $(shell Rscript -e 'cat(system.file("include", package = "RcppSimdJson"))')

.PHONY: demo test setup-demo setup-test install test-core test-fuzz fuzz test-viewer test-r test-page test-docs check bench viewer document screenshots clean

demo: setup-demo install
	@inst/bin/ochre demo maps --force
	@echo "The maps are in $(CURDIR)/maps: open map.html in a browser."

test: setup-test install test-core test-fuzz test-viewer test-docs test-r test-page check
	@echo "All tests passed."

setup-demo:
	@tools/setup.sh demo
setup-test:
	@tools/setup.sh test

install: $(BUILD)/installed
$(BUILD)/installed: $(SOURCES)
	@mkdir -p $(BUILD)
	@echo "Building Ochre …"
	@[ -z "$$(find src -name '*.h*' -newer $@ 2>/dev/null)" ] || rm -f src/*.o src/core/*.o  # make knows no headers there
	@R_MAKEVARS_USER=$(CURDIR)/tools/Makevars MAKEFLAGS=-j2 R CMD INSTALL . > $(BUILD)/install.log 2>&1 || { tail -30 $(BUILD)/install.log; exit 1; }
	@tools/link-command.sh
	@touch $@

# ---- tests ----------------------------------------------------------------------------------

# The core by itself: no header and no library of R, with the sanitizers on.
$(BUILD)/core/%.o: src/core/%.cpp $(wildcard src/core/*.hpp)
	@mkdir -p $(@D)
	g++ $(SANITIZE) -Wall -Wextra $(KERNELS) -isystem $(SIMDJSON) -c $< -o $@
$(BUILD)/tests/%.o: tests/core/%.cpp $(wildcard src/core/*.hpp)
	@mkdir -p $(@D)
	g++ $(SANITIZE) -Wall -Wextra -Isrc/core -c $< -o $@
$(BUILD)/test-core: $(CORE_OBJECTS) $(CORE_TESTS:tests/core/%.cpp=$(BUILD)/tests/%.o)
	g++ $(SANITIZE) $^ -o $@
test-core:
	@$(MAKE) -s -j2 $(BUILD)/test-core
	$(BUILD)/test-core

# Each parser alone under a fuzzer that watches which branches an input takes, and those in R with random
# mutations: a short bounded run in `make test`, twenty minutes each with `make fuzz` (or SECONDS=).
FUZZ_CORE := $(notdir $(basename $(wildcard tests/fuzz/fuzz-*.cpp)))
FUZZ_WORDS := fuzz-addresses fuzz-templates fuzz-sheets
FUZZ := -std=c++17 -O1 -g -fsanitize=fuzzer-no-link,address,undefined -fno-sanitize-recover=undefined
SHORT := 8
LONG := 1200
$(BUILD)/fuzz/core/%.o: src/core/%.cpp $(wildcard src/core/*.hpp)
	@mkdir -p $(@D)
	clang++ $(FUZZ) $(KERNELS) -isystem $(SIMDJSON) -c $< -o $@
$(BUILD)/fuzz/%: tests/fuzz/%.cpp tests/fuzz/fuzz.hpp $(CORE:src/core/%.cpp=$(BUILD)/fuzz/core/%.o)
	clang++ $(FUZZ) -fsanitize=fuzzer -Isrc/core $< $(BUILD)/fuzz/core/*.o -o $@
test-fuzz: install
	@$(MAKE) -s -j2 $(FUZZ_CORE:%=$(BUILD)/fuzz/%)
	@tools/run-fuzz.sh $(SHORT) $(FUZZ_CORE) $(FUZZ_WORDS)
fuzz:
	@$(MAKE) test-fuzz SHORT=$(or $(SECONDS),$(LONG))

$(BUILD)/node_modules: viewer/package.json viewer/package-lock.json
	@mkdir -p $(BUILD)
	cd viewer && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

test-viewer: $(BUILD)/node_modules
	cd viewer && npm run -s check && npm run -s test
	tools/check-viewer-current.sh

test-r: install
	Rscript tests/testthat.R

test-page: install $(BUILD)/node_modules
	@rm -rf $(BUILD)/maps && inst/bin/ochre demo $(BUILD)/maps 2> $(BUILD)/demo.log
	cd tests/page && OCHRE_MAPS=$(CURDIR)/$(BUILD)/maps node --test --test-reporter=spec .

# What roxygen and Rcpp generate is committed; this fails when it is out of date.
test-docs:
	tools/check-documents-current.sh

check: $(BUILD)/checked
$(BUILD)/checked: $(SOURCES) $(wildcard vignettes/*.Rmd man/*.Rd)
	tools/check-package.sh
	@touch $@

# ---- for working on Ochre -------------------------------------------------------------------

viewer: $(BUILD)/node_modules
	cd viewer && npm run -s build

document:
	Rscript -e 'Rcpp::compileAttributes()' -e 'suppressMessages(roxygen2::roxygenise(load_code = "source"))'

bench: setup-test install
	$(MAKE) -C bench

screenshots: install $(BUILD)/node_modules
	tools/screenshots.sh

clean:
	rm -rf $(BUILD) maps src/*.o src/*.so src/core/*.o viewer/node_modules viewer/.tests
