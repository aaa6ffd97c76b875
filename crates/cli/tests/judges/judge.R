# Prints, for each pair of files of a package of which one uses a name that the other binds, `from,to`, after a line
# `,path` for each file that was looked at. The parser is R's own, and so is what tells which names of a function are
# not its own: Rscript judge.R FOLDER
suppressMessages(library(codetools))
root <- normalizePath(commandArgs(trailingOnly = TRUE)[1])
setwd(root)

# Names that an expression outside of functions binds.
bound <- function(e) {
  if (!is.call(e)) return(character())
  head <- if (is.name(e[[1]])) as.character(e[[1]]) else ""
  first <- function() if (length(e) > 1 && is.character(e[[2]])) e[[2]] else character()
  switch(head,
    "<-" = , "=" = , "<<-" = c(
      if (is.name(e[[2]]) || is.character(e[[2]])) as.character(e[[2]]),
      bound(e[[3]])
    ),
    "{" = , "(" = , "if" = , "for" = , "while" = , "repeat" = ,
    "suppressWarnings" = , "suppressMessages" = , "try" = unlist(lapply(as.list(e)[-1], bound)),
    "assign" = , "delayedAssign" = , "makeActiveBinding" = , "setGeneric" = , "setClass" = , "setRefClass" = first(),
    character()
  )
}

# `x$y <- value` changes an `x` that is there, which the tool takes for a local value that begins here.
read_first <- function(e) {
  if (!is.call(e)) return(e)
  if (is.name(e[[1]]) && as.character(e[[1]]) %in% c("<-", "=") && is.call(e[[2]])) e[[1]] <- as.name("list")
  as.call(lapply(as.list(e), function(part) if (missing(part)) quote(expr = ) else read_first(part)))
}

# Names of the packages beside each other that an expression takes from one, as `package::name`.
qualified <- function(e) {
  if (!is.call(e) && !is.pairlist(e)) return(character())
  head <- if (is.name(e[[1]])) as.character(e[[1]]) else ""
  if (is.call(e) && head %in% c("::", ":::")) return(paste(e[[2]], e[[3]], sep = "::"))
  unlist(lapply(as.list(e), function(part) if (!missing(part)) qualified(part)))
}

# Names that an expression calls, and those that it gives a function to. R passes over values that are no functions
# when it looks for what is called; the tool does not.
called <- function(e) {
  if (!is.call(e) && !is.pairlist(e)) return(character())
  own <- if (is.call(e) && is.name(e[[1]])) as.character(e[[1]])
  c(own, unlist(lapply(as.list(e), function(part) if (!missing(part)) called(part))))
}
made <- function(e) {
  if (!is.call(e)) return(character())
  gives <- is.name(e[[1]]) && as.character(e[[1]]) %in% c("<-", "=") && is.name(e[[2]])
  own <- if (gives && is.call(e[[3]]) && identical(e[[3]][[1]], as.name("function"))) as.character(e[[2]])
  c(own, unlist(lapply(as.list(e), function(part) if (!missing(part)) made(part))))
}

# Names that an expression uses and does not bind itself.
used <- function(e) {
  holder <- function() NULL
  body(holder) <- read_first(e)
  c(tryCatch(findGlobals(holder, merge = TRUE), error = function(problem) character()), qualified(e), setdiff(called(e), made(e)))
}

packages <- dirname(list.files(".", pattern = "^DESCRIPTION$", recursive = TRUE))
for (package in packages) {
  folder <- if (package == ".") "R" else file.path(package, "R")
  files <- list.files(folder, pattern = "\\.[rR]$", full.names = TRUE)
  parsed <- Filter(Negate(is.null), sapply(files, function(file) {
    tryCatch(parse(file, keep.source = FALSE), error = function(problem) NULL)
  }, simplify = FALSE))
  name <- read.dcf(file.path(package, "DESCRIPTION"), fields = "Package")[1]
  holds <- lapply(parsed, function(file) {
    plain <- unique(unlist(lapply(as.list(file), bound)))
    c(plain, if (length(plain)) paste(name, plain, sep = "::"))
  })
  for (from in names(parsed)) {
    cat(sprintf(",%s\n", from))
    names <- setdiff(unique(unlist(lapply(as.list(parsed[[from]]), used))), holds[[from]])
    for (to in setdiff(names(parsed), from)) {
      if (any(names %in% holds[[to]])) cat(sprintf("%s,%s\n", from, to))
    }
  }
}
