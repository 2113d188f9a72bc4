# Files are written whole or not at all: into a temporary file beside the target, then renamed.
write_whole <- function(file, write) {
  check_target(file)
  clear_drafts(dirname(file))
  draft <- tempfile(paste0(".fjordline-", Sys.getpid(), "-"), tmpdir = dirname(file),
                    fileext = paste0(".", tools::file_ext(file)))
  on.exit(unlink(draft))
  done <- tryCatch(write(draft), error = function(e) {
    if (inherits(e, "fjordline_error")) stop(e)
    if (!has_room(dirname(file))) refuse_full(file)
    fl_abort("file", paste0(quoted(file), " could not be written."), found = conditionMessage(e))
  })
  if (isFALSE(done) || !has_room(dirname(file))) refuse_full(file)
  if (!file.exists(draft) || !suppressWarnings(file.rename(draft, file))) {
    fl_abort("file", paste0(quoted(file), " could not be written."), advice = "Is the folder writable?")
  }
  invisible(file)
}

refuse_full <- function(file) {
  fl_abort("file", paste0(quoted(file), " could not be written whole."),
           found = "The disk is full, or a limit is reached.", advice = "Nothing was changed; make room and try again.")
}

# Many writers say nothing when the disk is full and the file ends early. Where a file was cut for want of room there is
# none for another either.
has_room <- function(folder, bytes = 65536L) {
  probe <- tempfile(paste0(".fjordline-", Sys.getpid(), "-"), tmpdir = folder)
  on.exit(unlink(probe))
  tryCatch({
    suppressWarnings(writeBin(raw(bytes), probe))
    isTRUE(file.size(probe) == bytes)
  }, error = function(e) FALSE)
}

# Drafts of processes that were killed an hour ago or more.
clear_drafts <- function(folder) {
  drafts <- list.files(folder, "^[.]fjordline-[0-9]+-", all.files = TRUE, full.names = TRUE)
  of <- as.integer(sub("^[.]fjordline-([0-9]+)-.*$", "\\1", basename(drafts)))
  old <- difftime(Sys.time(), file.mtime(drafts), units = "hours") > 1
  unlink(drafts[of != Sys.getpid() & old %in% TRUE])
}

# Whether a file could be written there; asked before long work.
check_target <- function(file) {
  check_text(file, "file")
  folder <- dirname(file)
  if (!dir.exists(folder)) {
    fl_abort("file", paste0("The folder ", quoted(folder), " does not exist."), advice = "Create it first.")
  }
  if (dir.exists(file)) {
    fl_abort("file", paste0(quoted(file), " is a folder; a file name is needed."))
  }
}

check_file <- function(file, what = "file") {
  check_text(file, what)
  if (!file.exists(file)) {
    near <- nearest_word(basename(file), list.files(dirname(file)))
    fl_abort("file", paste0("There is no file ", quoted(file), "."),
             advice = if (length(near) > 0L) paste0("Did you mean ", quoted(file.path(dirname(file), near)), "?"))
  }
  if (dir.exists(file)) {
    fl_abort("file", paste0(quoted(file), " is a folder, not a file."))
  }
  if (file.access(file, 4L) != 0L) {
    fl_abort("file", paste0(quoted(file), " may not be read."), advice = "Ask its owner, or change its permissions.")
  }
  file
}

# The file's format, from its ending.
file_form <- function(file, forms) {
  ending <- tolower(tools::file_ext(file))
  if (!ending %in% forms) {
    fl_abort("file", paste0("The ending of ", quoted(basename(file)), " is not one this can use."),
             advice = paste0("Use ", listed(paste0(".", forms), "or"), "."))
  }
  ending
}
