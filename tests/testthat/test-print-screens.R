# The screens of what is made of a partition, as people read them: the answer first, the evidence, the next call last.

test_that("comparing, reading and placing print as they should", {
  withr::local_options(cli.width = 88, width = 88)
  ready <- water_ready()
  sweep <- quick_sweep(ready, fl_method("kmeans", restarts = 3), k = 3:6)
  groups <- fl_name(fl_take(sweep, k = 5), c("top", "middle", "basin", "inflow", "melt"))
  expect_snapshot({
    print(fl_name(groups))
    print(fl_contrast(groups, fl_take(sweep, k = 6)))
    print(fl_lineage(sweep, names = groups))
    print(fl_paths(groups))
    print(fl_outcome(groups, "date"))
  })
  new <- head(as.data.frame(fl_demo("water_samples")), 40)
  new$temperature <- new$temperature + 3
  new$salinity[2] <- 70
  expect_snapshot({
    print(fl_place(groups, new))
    print(fl_adopt(fl_place(groups, new)))
    print(fl_adopt(ready, "station"))
  })
})

test_that("every screen ends with the next call, and shells leave it out", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  sweep <- quick_sweep(groups$ready, k = 2:4)
  for (x in list(groups, sweep, fl_agree(groups), fl_profile(groups, sets = 0), fl_paths(groups), fl_lineage(sweep),
                 fl_contrast(groups, fl_take(sweep, k = 2)), fl_place(groups, heaps()), fl_mismatches(fl_agree(groups)))) {
    lines <- format(x)
    expect_true(any(startsWith(lines, "Next: ")), info = class(x)[1])
    expect_false(any(startsWith(strip_next(lines), "Next: ")), info = class(x)[1])
    expect_equal(utils::capture.output(returned <- print(x))[1], strwrap(lines[1], print_width(), exdent = 2)[1])
    expect_identical(returned, x)
  }
  expect_equal(strip_next(c("  and 3 more rows: as.data.frame(mismatches)", "  and 2 more rows: contrast$moved", "Next: x")),
               c("  and 3 more rows: --json has all", "  and 2 more rows: --json has all"))
})
