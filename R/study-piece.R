# What a piece of work of a study holds: where it belongs, and what it needs to be done. The table itself is not in it.

piece_kinds <- list(
  fit = c("method", "k", "parameter", "seed", "seconds", "megabytes", "agreements"),
  judge = c("method", "read"), together = "read", gate = c("metric", "sets", "seed")
)

# `row`: its row of the plan. `key`: what it is called in the store. `label`: what pieces that take as long have in
# common. `needs`: by kind, see above; `read` is a function that reads the rest out of the store just before it is
# done, since all of a large study would not fit in memory.
new_piece <- function(kind, row, key, label, needs) {
  lacking <- setdiff(piece_kinds[[kind]], names(needs))
  if (length(lacking) > 0L) broken_object(paste("piece of kind", kind), paste0("It lacks ", listed(lacking), "."))
  c(list(kind = kind, row = row, key = key, label = label, dataset = row$dataset, preparation = row$preparation,
         table = row[["table"]] %||% coordinates(row$dataset, row$preparation)), needs)
}

fit_piece <- function(i, study, cells) {
  cell <- lapply(cells, `[[`, i)
  new_piece("fit", cell, cell$cell, cell$method, list(
    method = study$methods[[cell$method]], k = cell$k, parameter = cell$parameter, seed = cell$seed,
    seconds = study$seconds, megabytes = study$megabytes, agreements = study$agreements,
    noise = noise_class(study, cell$dataset)
  ))
}

gate_piece <- function(i, study, gates) {
  gate <- gates[i, ]
  new_piece("gate", gate, gate$gate, gate$metric, list(metric = gate$metric, sets = gate_sets(study$indices),
                                                       seed = seed_at(gate$gate, study$seed)))
}

judge_pieces <- function(study, plan, judgements, opened) {
  if (NROW(judgements) == 0L) {
    return(list())
  }
  gates <- stored_rows(opened, "fl_gates", plan$gates$gate)
  key <- function(part) paste(part$dataset, part$preparation, part$method, part$`repeat`, sep = "\r")
  of <- split(seq_len(nrow(plan$cells)), key(plan$cells))[key(judgements)]
  lapply(seq_len(nrow(judgements)), function(i) {
    judge_piece(study, plan$cells[of[[i]], ], judgements[i, ], gates, opened)
  })
}

judge_piece <- function(study, cells, judgement, gates, opened) {
  method <- study$methods[[judgement$method]]
  gate <- gates$details[gates$dataset == judgement$dataset & gates$preparation == judgement$preparation &
                          gates$metric == seen_metric(method)]
  new_piece("judge", judgement, judgement$judgement, judgement$method, list(method = method, read = function() {
    rows <- stored_rows(opened, "fl_cells", cells$cell)
    rows <- rows[match(cells$cell, rows$cell), ]
    list(cells = replace(cells, "seed", judgement$seed), counts = study$k, indices = study$indices, gate = gate,
         fits = lapply(seq_len(nrow(rows)), function(i) as.list(rows[i, ])))
  }))
}

# What the vote that hears k-means and a mixture together needs: the pieces that judged each, and their values.
together_piece <- function(i, study, plan, rows, opened) {
  row <- rows[i, ]
  new_piece("together", row, row$judgement, both_said, list(read = function() {
    mine <- plan$judgements[plan$judgements$dataset == row$dataset & plan$judgements$preparation == row$preparation &
                              plan$judgements$`repeat` == row$`repeat` &
                              plan$judgements$method %in% voting_pair(study), ]
    list(pieces = lapply(judge_pieces(study, plan, mine, opened), with_its_fits), values = stored_values(opened, mine))
  }))
}

stored_values <- function(opened, judgements) {
  values <- tibble::as_tibble(in_store(opened, DBI::dbGetQuery(opened$con, paste0(
    "SELECT * FROM fl_values WHERE judgement IN (", paste(sql_literal(judgements$judgement), collapse = ", "), ")"
  ))))
  at <- match(values$judgement, judgements$judgement)
  tibble::tibble(preparation = judgements$preparation[at], method = judgements$method[at], k = values$k,
                 `repeat` = 1L, index = values$measure, value = values$value, error = values$error,
                 covered = values$covered, reason = values$reason, asked = as.logical(values$asked))
}
