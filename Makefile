# make demo, make test: everything a newcomer needs. They install what is missing first.
LIB := build/library
export R_LIBS := $(CURDIR)/$(LIB):$(R_LIBS)
SOURCES := DESCRIPTION NAMESPACE $(wildcard R/*.R src/*.cpp src/*.h src/Makevars inst/*/*)
CORES := $(shell getconf _NPROCESSORS_ONLN 2>/dev/null || echo 2)
COMMAND := $(LIB)/fjordline/cli/fjordline

.PHONY: judge demo test check lint sanitize bench docs readme site screenshots install set-up develop clean

demo: build/installed
	@Rscript $(COMMAND) demo --out fjordline-demo

test: build/installed
	@Rscript dev/test.R

build/installed: $(SOURCES) | set-up
	@mkdir -p $(LIB)
	@test ! -e $@ || find src -name '*.h' -newer $@ | grep -q . && rm -f src/*.o || true  # R knows no headers
	@MAKEFLAGS=-j$(CORES) R CMD INSTALL --library=$(LIB) --no-test-load . > build/install.log 2>&1 || { cat build/install.log; exit 1; }
	@touch $@

set-up:
	@dev/set-up.sh

develop:
	@dev/set-up.sh develop

# Into R's own library, with the shell command linked into ~/.local/bin.
install: export R_LIBS :=
install: set-up
	R CMD INSTALL .
	@mkdir -p $(HOME)/.local/bin
	@ln -sf "$$(Rscript -e 'cat(system.file("cli", "fjordline", package = "fjordline", mustWork = TRUE))')" \
	  $(HOME)/.local/bin/fjordline
	@echo "the shell command is $(HOME)/.local/bin/fjordline"

check: set-up
	@dev/check.sh

lint: develop build/installed
	@Rscript dev/lint.R
	@Rscript dev/voice.R

# The C++ kernels and their own tests under the address and undefined-behaviour sanitizers.
sanitize: set-up
	@dev/sanitize.sh

# Fits and judges every suite of the vote, and writes the tables of bench/README.md and the record: some hours.
judge: develop build/installed
	Rscript bench/suite-sweeps.R
	FJORDLINE_BENCH_SET=standard FJORDLINE_BENCH_NUMBERS="seq(2, 38, 2)" Rscript bench/suite-sweeps.R
	FJORDLINE_BENCH_SIDE=tuning Rscript bench/suite-votes.R
	FJORDLINE_BENCH_SIDE=judging Rscript bench/suite-votes.R
	Rscript bench/suite-judge.R

bench: develop build/installed
	@Rscript bench/run.R $(if $(quick),quick)

docs: develop
	Rscript dev/document.R

# README.md from README.Rmd.
readme: build/installed
	@Rscript dev/readme.R

# The site, into build/site.
site: develop build/installed
	@Rscript dev/site.R $(if $(quick),quick)

screenshots: build/installed
	@Rscript dev/screenshots.R

clean:
	rm -rf build fjordline-demo src/*.o src/*.so
