# Words around figures: nothing is cut off, whatever the size of the page, and users can change them as in any ggplot.

water_groups <- function() {
  ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
  sweep <- fl_sweep(ready, "kmeans", k = 1:6, indices = "fast")
  groups <- fl_take(sweep, k = 5)
  list(ready = ready, sweep = sweep, groups = fl_name(groups, fl_agree(groups)))
}

test_that("no text is cut off, or lies on another, on small and on large pages", {
  plain <- ggplot2::ggplot(data.frame(x = 1:2, y = 1:2), ggplot2::aes(x, y)) + ggplot2::geom_point()
  expect_match(texts_off_page(plain + ggplot2::labs(title = strrep("a long title ", 20)), 5, 4), "a long title", all = FALSE)
  labelled <- plain + ggplot2::geom_text(ggplot2::aes(label = c("", "a label that the panel cuts off")))
  expect_match(texts_off_page(labelled, 5, 4), "that the panel cuts off", all = FALSE)

  crowded <- plain + ggplot2::geom_text(ggplot2::aes(x = 1.5, y = 1.5, label = c("one label", "another one")))
  expect_match(texts_on_texts(crowded, 5, 4), "one label | another one", fixed = TRUE, all = FALSE)

  made <- water_groups()
  seals <- fl_partition(fl_prepare(fl_demo("seal_haulouts")), "hdbscan")
  figures <- list(
    vote = ggplot2::autoplot(fl_vote(made$sweep)), curves = ggplot2::autoplot(made$sweep),
    groups = ggplot2::autoplot(made$groups), silhouette = ggplot2::autoplot(made$groups, "silhouette"),
    pairs = ggplot2::autoplot(made$groups, "pairs"), paths = ggplot2::autoplot(fl_paths(made$groups)),
    lineage = ggplot2::autoplot(fl_lineage(made$sweep, names = made$groups)), tree = ggplot2::autoplot(seals, "tree"),
    causes = ggplot2::autoplot(fl_mismatches(fl_agree(made$groups)), "causes"),
    pull = ggplot2::autoplot(fl_demo("water_samples"), "pull"), outliers = ggplot2::autoplot(fl_outliers(made$ready))
  )
  for (name in names(figures)) {
    for (page in c(list(c(5, 4)), if (name %in% c("groups", "lineage", "outliers")) list(c(14, 9)))) {
      texts <- suppressWarnings(texts_on_page(figures[[name]], page[1], page[2]))
      expect_equal(texts_off_page(texts = texts), character(), info = name)
      expect_equal(texts_on_texts(texts = texts), character(), info = name)
    }
  }
})

test_that("a long title ends at a stop of its own, and the subtitle goes on with the rest", {
  cut <- function(title) unlist(short_head(title, "Then."))
  expect_equal(cut("Short; very short"), c(title = "Short; very short", subtitle = "Then."))
  expect_equal(cut("No method is shown to be best. one and two share the best mean rank, 2.00 over 4 tables (by hand)."),
               c(title = "No method is shown to be best",
                 subtitle = "one and two share the best mean rank, 2.00 over 4 tables (by hand). Then."))
  expect_equal(cut("Ten rules give the right group to 98% of the rows (95% of rows unseen; the largest group is 36%)"),
               c(title = "Ten rules give the right group to 98% of the rows",
                 subtitle = "95% of rows unseen; the largest group is 36%. Then."))
  expect_equal(cut("One two three: four five six seven; eight nine ten eleven twelve thirteen fourteen")[["title"]],
               "One two three: four five six seven")
  expect_equal(cut("Three groups of 1,250, 92 and 83 rows in all, drawn as pictures of 4 by 8")[["title"]],
               "Three groups of 1,250, 92 and 83 rows in all")
  expect_match(cut("One cluster is not enough to say what these rows look like: p <= 0.005, the least")[["subtitle"]], "^p <=")
  endless <- paste(rep("word", 20), collapse = " ")
  expect_equal(cut(endless), c(title = endless, subtitle = "Then."))
})

test_that("a long subtitle hands its last sentences to the caption, whole", {
  facts <- paste0("Fact ", c("one", "two", "three", "four"), " is told in these words, which are rather many of them.")
  words <- shared_words("Short", facts, "Data: water_samples.")
  expect_equal(words$subtitle, paste(facts[1:2], collapse = " "))
  expect_equal(words$caption, paste(facts[3], facts[4], "Data: water_samples."))
  endless <- paste(rep("word", 60), collapse = " ")
  expect_equal(shared_words("Short", endless, NULL)[c("subtitle", "caption")], list(subtitle = endless, caption = NULL))
  # a sentence may begin with a number, and end with a question
  rows <- paste(strrep("a", 100), c("3 of 4.", "is it?"))
  words <- shared_words("Short", c(rows[1], paste("75 rows", rows[2]), "5 more."), NULL)
  expect_equal(words[c("subtitle", "caption")], list(subtitle = rows[1], caption = paste("75 rows", rows[2], "5 more.")))
})

test_that("lines break at words, as late as they can, and where the writer broke them", {
  withr::local_pdf(NULL, width = 7, height = 5)
  set_in <- grid::gpar(fontsize = 10)
  text <- paste(rep(c("many", "words", "of", "unequal", "length"), 12), collapse = " ")
  for (inches in c(1, 2.5, 6)) {
    lines <- strsplit(broken_lines(text, inches, set_in), "\n")[[1]]
    expect_equal(paste(lines, collapse = " "), text)
    expect_true(all(inches_of_words(lines, set_in) <= inches + 0.02))
    first <- sub(" .*", "", lines[-1])
    expect_true(all(inches_of_words(paste(lines[-length(lines)], first), set_in) > inches - 0.02))
  }
  expect_equal(broken_lines("one\ntwo", 5, set_in), "one\ntwo")
  expect_equal(broken_lines("unbreakable", 0.1, set_in), "unbreakable")
})

test_that("figures stay ggplots: titles, themes and tables of grobs as ever", {
  figure <- ggplot2::autoplot(water_groups()$groups)
  expect_s3_class(figure, "ggplot")
  changed <- figure + ggplot2::labs(title = "Mine") + ggplot2::theme(plot.title = ggplot2::element_text(size = 30))
  expect_equal(changed$labels$title, "Mine")
  withr::local_pdf(NULL, width = 8.5, height = 6)
  table <- ggplot2::ggplotGrob(changed)
  title <- table$grobs[[which(table$layout$name == "title")]]
  expect_equal(title$label, "Mine")
  expect_equal(title$set_in$fontsize, 30)
  expect_no_error(print(changed, vp = grid::viewport(width = 0.5)))
  grid::pushViewport(grid::viewport(name = "here"))
  expect_no_error(print(changed, newpage = FALSE, vp = "here"))
  expect_no_error(print(figure + ggplot2::labs(title = NULL, subtitle = NULL)))
})

test_that("texts and points are smaller on small pages, and as designed on large ones", {
  figure <- ggplot2::autoplot(water_groups()$groups)
  size_on <- function(width, height) {
    grDevices::pdf(NULL, width = width, height = height)
    on.exit(grDevices::dev.off())
    built <- ggplot2::ggplot_build(figure)
    c(ggplot2::calc_element("text", built$plot$theme)$size, built$data[[1]]$size[1])
  }
  expect_equal(size_on(4.25, 3) / size_on(12, 9), c(0.6, 0.6))
  expect_equal(size_on(8.5, 6), size_on(12, 9))
})

test_that("discs take the colours of a scale of the reader's own, and their numbers stay readable on it", {
  mine <- c("#FFEE88", "#FFFFFF", "#001144", "#220000", "#EEEEEE")
  figure <- suppressMessages(ggplot2::autoplot(water_groups()$groups) + ggplot2::scale_colour_manual(values = mine))
  layers <- ggplot2::ggplot_build(figure)$data
  numbers <- which(vapply(layers, function(layer) "label" %in% names(layer), NA))
  expect_equal(layers[[numbers - 1L]]$colour, mine)
  written <- grDevices::col2rgb(ggplot2::layer_grob(figure, numbers)[[1]]$gp$col)
  expect_equal(colSums(written) == 3 * 255, c(FALSE, FALSE, TRUE, TRUE, FALSE))
})
