# Words around a figure: titles, subtitles and captions break where the figure ends, whatever its size. ggplot2 sets
# them on lines of their own making; here their grobs are exchanged, once the figure is a table of grobs, for some that
# break their lines when they are drawn.

# Title, subtitle and caption of a figure, and of its axes.
words_on <- function(title = NULL, subtitle = NULL, caption = NULL, ...) {
  structure(list(words = do.call(labs, c(shared_words(title, subtitle, caption), list(...)))), class = "fl_words")
}

# The same of several panels together.
words_on_panels <- function(title, subtitle = NULL, caption = NULL) {
  words <- c(shared_words(title, subtitle, caption), list(theme = fl_theme()))
  structure(list(words = do.call(patchwork::plot_annotation, words)), class = "fl_words")
}

# The words above a figure and below it. A subtitle has two lines at most: the last sentences of a longer one begin the
# caption.
shared_words <- function(title, subtitle, caption) {
  head <- short_head(title, subtitle)
  said <- unlist(strsplit(head$subtitle %||% character(), "(?<=[.?]) (?=[A-Z0-9]|p )", perl = TRUE))
  above <- cumsum(nchar(said) + 1L) <= most_subtitle_letters | seq_along(said) == 1L
  list(title = head$title, subtitle = one_text(said[above]), caption = one_text(c(said[!above], caption)))
}

most_subtitle_letters <- 160L

one_text <- function(text) if (length(text) > 0L) gsub("\\s+", " ", paste(text, collapse = " "))

# A title of more than twelve words ends at a stop of its own, and the subtitle begins with the rest.
short_head <- function(title, subtitle) {
  title <- one_text(title)
  if (is.null(title) || words_in(title) <= most_title_words) {
    return(list(title = title, subtitle = one_text(subtitle)))
  }
  ends <- title_ends(title)
  if (length(ends) == 0L) {
    return(list(title = title, subtitle = one_text(subtitle)))
  }
  short <- ends[words_in(substring(title, 1L, ends)) <= most_title_words]
  end <- if (length(short) > 0L) max(short) else min(ends)
  rest <- sub("[.]$", "", sub("^[.;:,]? *", "", substring(title, end + 1L)))
  if (startsWith(rest, "(")) rest <- sub("^[(](.*)[)]$", "\\1", rest)
  # a new sentence is written as it is to be, and p stays small
  if (substring(title, end + 1L, end + 1L) != "." && !grepl("^[a-z] ", rest)) rest <- capital(rest)
  list(title = substring(title, 1L, end), subtitle = one_text(c(paste0(rest, "."), subtitle)))
}

most_title_words <- 12L

words_in <- function(text) lengths(strsplit(text, "\\s+"))

# After which letters a title may end: before the stops of its sentence, or before a bracket that ends it; where it has
# none, before a comma between words.
title_ends <- function(title) {
  # what stands in brackets has stops of its own
  bare <- title
  inside <- gregexpr("[(][^()]*[)]", title)
  regmatches(bare, inside) <- lapply(regmatches(bare, inside), function(text) strrep("_", nchar(text)))
  at <- function(pattern) setdiff(as.integer(gregexpr(pattern, bare, perl = TRUE)[[1L]]), -1L) - 1L
  stops <- c(at("[.;:] "), at(" _+[.]?$"))
  if (length(stops) > 0L) stops else at(", [a-z]")
}

#' @importFrom ggplot2 ggplot_add
#' @exportS3Method
ggplot_add.fl_words <- function(object, plot, ...) {
  plot <- plot + object$words
  class(plot) <- unique(c("fl_figure", class(plot)))
  plot
}

#' @importFrom ggplot2 ggplot_build
#' @exportS3Method
ggplot_build.fl_figure <- function(plot, ...) {
  scale <- page_scale()
  class(plot) <- setdiff(class(plot), "fl_figure")
  built <- ggplot_build(plot + of_this_size(plot$theme, scale) + of_many_panels(plot$data$panel, scale))
  for (i in seq_along(plot$layers)) {
    if (any(c("GeomText", "GeomLabel", "GeomPoint") %in% class(plot$layers[[i]]$geom))) {
      built$data[[i]]$size <- built$data[[i]]$size * scale
    }
  }
  class(built) <- unique(c("fl_built", class(built)))
  built
}

# Figures are made for pages of 8.5 x 6 inches and more; on smaller ones all texts and points are smaller, down to 0.6.
page_scale <- function() {
  page <- if (grDevices::dev.cur() > 1L) grDevices::dev.size("in") else c(7, 5)
  min(1, max(0.6, min(page / c(8.5, 6))))
}

of_this_size <- function(look, scale) {
  size <- ggplot2::calc_element("text", look)$size
  key <- ggplot2::calc_element("legend.key.height", look)
  theme(text = element_text(size = size * scale), legend.key.height = scale * key,
        legend.key.width = scale * ggplot2::calc_element("legend.key.width", look))
}

# On a small page many panels need the width of their axes for what stands above them.
of_many_panels <- function(panel, scale) {
  if (scale < 0.8 && is.factor(panel) && nlevels(panel) > 12L) theme(axis.text.y = element_blank())
}

#' @importFrom ggplot2 ggplot_gtable
#' @exportS3Method
ggplot_gtable.fl_built <- function(data) with_breaking_words(NextMethod())

# Several panels are put together by patchwork, which has no such step in between.
#' @exportS3Method
print.fl_figure <- function(x, newpage = TRUE, vp = NULL, ...) {
  ggplot2::set_last_plot(x)
  if (newpage) grid::grid.newpage()
  if (is.character(vp)) grid::seekViewport(vp) else if (!is.null(vp)) grid::pushViewport(vp)
  grid::grid.draw(if (inherits(x, "patchwork")) panels_table(x) else framed_words(ggplot2::ggplotGrob(x)))
  if (!is.null(vp)) grid::upViewport()
  invisible(x)
}

panels_table <- function(x) {
  smaller <- patchwork::plot_annotation(theme = theme(text = element_text(size = 13 * page_scale())))
  with_breaking_words(patchwork::patchworkGrob(x + smaller))
}

# A figure of fixed proportions is narrower than the page: its words stand outside of it then, as wide as the page.
framed_words <- function(table) {
  at <- vapply(c("title", "subtitle", "caption"), function(name) match(name, table$layout$name), 0L)
  if (!isTRUE(table$respect) || anyNA(at)) {
    return(table)
  }
  words <- lapply(seq_along(at), function(i) {
    text <- table$grobs[[at[i]]]
    if (!inherits(text, "fl_breaking_words")) {
      return(grid::nullGrob())
    }
    text[c("widths", "columns")] <- list(grid::unit(1, "null"), 1L)
    grid::editGrob(text, vp = grid::viewport(layout.pos.row = c(1L, 2L, 4L)[i]))
  })
  height <- function(i) grid::grobHeight(words[[i]])
  sides <- table$widths[c(1L, length(table$widths))]
  table$grobs[at] <- list(grid::nullGrob())
  table$heights[table$layout$t[at]] <- grid::unit(0, "pt")
  rows <- grid::grid.layout(4L, 1L, heights = grid::unit.c(height(1L), height(2L), grid::unit(1, "null"), height(3L)))
  inner <- grid::gTree(children = grid::gList(table), vp = grid::viewport(layout.pos.row = 3L))
  grid::gTree(children = do.call(grid::gList, c(words, list(inner))), vp = grid::viewport(
    width = grid::unit(1, "npc") - sum(sides), height = grid::unit(1, "npc") - sum(sides), layout = rows
  ))
}

# A table of grobs with its texts exchanged, and the rows of broken ones as high as they need.
with_breaking_words <- function(table) {
  name <- sub("(-[0-9]+)+$", "", table$layout$name)
  narrow <- name %in% c("strip-t", "strip-r", "ylab-l")
  table$grobs[narrow] <- lapply(table$grobs[narrow], with_fitting_text)
  said <- name %in% c("title", "subtitle", "caption", "xlab-b")
  texts <- lapply(which(said), function(at) {
    breaking_words(table$grobs[[at]], table$widths, seq(table$layout$l[at], table$layout$r[at]))
  })
  ours <- lengths(texts) > 0L
  table$grobs[which(said)[ours]] <- texts[ours]
  row <- table$layout$t[said][ours]
  for (one in unique(row)) {
    table$heights[one] <- do.call(grid::unit.pmax, lapply(texts[ours][row == one], grid::grobHeight))
  }
  table
}

# `columns` of a table with these `widths` hold the text.
breaking_words <- function(grob, widths, columns) {
  text <- if (length(grob$children) == 1L) grob$children[[1L]]
  if (!is.character(text$label) || length(grob$heights) != 3L) {
    return(NULL)
  }
  grid::gTree(label = text$label, set_in = text$gp, hjust = text$hjust, above = grob$heights[1L],
              below = grob$heights[3L], widths = widths, columns = columns, cl = "fl_breaking_words")
}

# Every text within a grob, so that it fits into its place.
with_fitting_text <- function(grob) {
  if (inherits(grob, "text")) {
    if (is.character(grob$label)) class(grob) <- c("fl_fitting_text", class(grob))
  } else if (inherits(grob, "gtable")) {
    grob$grobs <- lapply(grob$grobs, with_fitting_text)
  } else if (inherits(grob, "gTree")) {
    for (name in names(grob$children)) grob$children[[name]] <- with_fitting_text(grob$children[[name]])
  }
  grob
}

# Smaller, down to seven tenths, and then shortened.
#' @exportS3Method
makeContent.fl_fitting_text <- function(x) {
  upright <- isTRUE(x$rot %% 180 == 90)
  room <- grid::convertUnit(grid::unit(1, "npc"), "inches", axisFrom = if (upright) "y" else "x",
                            axisTo = if (upright) "y" else "x", valueOnly = TRUE) - 0.1
  long <- function(label, set_in) max(inches_of_words(strsplit(label, "\n")[[1L]], set_in))
  wide <- long(x$label, x$gp)
  if (wide > room) x$gp$fontsize <- x$gp$fontsize * max(0.7, room / wide)
  if (0.7 * wide > room) {
    lines <- strsplit(x$label, "\n")[[1L]]
    kept <- vapply(lines, function(line) {
      most <- nchar(line)
      while (most > 3L && inches_of_words(shortened(line, most), x$gp) > room) most <- most - 1L
      shortened(line, most)
    }, "")
    x$label <- paste(kept, collapse = "\n")
  }
  x
}

# What the columns of the text get of the figure's width: their own lengths, and their share of what is left over.
inches_of_columns <- function(x) {
  spare <- grid::unitType(x$widths) == "null"
  inches <- ifelse(spare, 0, grid::convertWidth(x$widths, "inches", valueOnly = TRUE))
  share <- ifelse(spare, as.numeric(x$widths), 0)
  left <- max(0, inches_of_here() - sum(inches))
  sum(inches[x$columns]) + if (any(spare)) left * sum(share[x$columns]) / sum(share) else 0
}

#' @importFrom grid makeContent
#' @exportS3Method
makeContent.fl_breaking_words <- function(x) {
  grid::setChildren(x, grid::gList(broken_text(x, inches_of_here())))
}

#' @importFrom grid heightDetails
#' @exportS3Method
heightDetails.fl_breaking_words <- function(x) {
  text <- broken_text(x, inches_of_columns(x))
  # as ggplot2 does: room for what hangs below the last line
  hanging <- grid::descentDetails(grid::textGrob("gjpqy", gp = x$set_in))
  sum(x$above, grid::grobHeight(text), hanging, x$below)
}

inches_of_here <- function() grid::convertWidth(grid::unit(1, "npc"), "inches", valueOnly = TRUE)

broken_text <- function(x, inches) {
  grid::textGrob(broken_lines(x$label, inches, x$set_in), x = grid::unit(x$hjust, "npc"),
                 y = grid::unit(1, "npc") - x$above, hjust = x$hjust, vjust = 1, gp = x$set_in)
}

# As many words on each line as are at most so wide; a word that is wider stands alone.
broken_lines <- function(label, inches, set_in) {
  blank <- diff(inches_of_words(c("ab", "a b"), set_in))
  one <- function(line) {
    words <- strsplit(line, " +")[[1L]]
    wide <- inches_of_words(words, set_in)
    out <- words[1L]
    used <- wide[1L]
    for (i in seq_along(words)[-1L]) {
      fits <- used + blank + wide[i] <= inches
      used <- if (fits) used + blank + wide[i] else wide[i]
      if (fits) out[length(out)] <- paste(out[length(out)], words[i]) else out <- c(out, words[i])
    }
    out
  }
  paste(unlist(lapply(strsplit(label, "\n")[[1L]], one)), collapse = "\n")
}

inches_of_words <- function(words, set_in) {
  if (length(words) == 0L) {
    return(double())
  }
  grid::pushViewport(grid::viewport(gp = set_in), recording = FALSE)
  on.exit(grid::popViewport(recording = FALSE))
  grid::convertWidth(grid::stringWidth(words), "inches", valueOnly = TRUE)
}
