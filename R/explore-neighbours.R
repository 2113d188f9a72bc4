# A map of neighbours, for tables of many columns: rows that are near stay near, all other distances are bent. It is
# there to be looked at; nothing is fitted to it. By UMAP: McInnes, Healy & Melville (2018),
# doi:10.48550/arXiv.1802.03426.

neighbours_most_rows <- 20000L

# Two columns, a row for each prepared row; of a long table those of an even sample, `NA` elsewhere. It runs in the
# worker, whose random numbers are its own.
neighbour_map <- function(ready, seed = 1) {
  drawn <- drawn_rows(nrow(ready$x), neighbours_most_rows)
  x <- ready$x[drawn, , drop = FALSE]
  set.seed(seed)
  place <- uwot::umap(x, n_neighbors = min(15L, nrow(x) - 1L), n_threads = 1L, n_sgd_threads = 1L)
  out <- matrix(NA_real_, nrow(ready$x), 2L)
  out[drawn, ] <- place
  out
}

begin_neighbours <- function(page) {
  need_package("uwot", "A map of neighbours")
  ready <- page$made("ready")
  if (is.null(ready) || nrow(ready$x) < 4L) {
    fl_abort("argument", "A map of neighbours needs a prepared table of four rows or more.")
  }
  worker_begin(page$worker, "neighbours <- neighbour_map(ready)", list(ready = ready), page$desk()$folder)
}

# As axes of the view that is shown: of the rows that are drawn there.
neighbour_axes <- function(places, most) {
  drawn <- drawn_rows(nrow(places), most)
  lapply(1:2, function(j) {
    list(name = paste("map of neighbours", j, "(bends distances)"), values = encoded_number(places[drawn, j]))
  })
}
