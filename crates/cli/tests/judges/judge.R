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

# Of each package: its name, what its files hold, and the names that it takes from others, as `package::name`.
read_package <- function(package) {
  folder <- if (package == ".") "R" else file.path(package, "R")
  files <- list.files(folder, pattern = "\\.[rR]$", full.names = TRUE)
  parsed <- Filter(Negate(is.null), sapply(files, function(file) {
    tryCatch(parse(file, keep.source = FALSE), error = function(problem) NULL)
  }, simplify = FALSE))
  name <- read.dcf(file.path(package, "DESCRIPTION"), fields = "Package")[1]
  holds <- lapply(parsed, function(file) unique(unlist(lapply(as.list(file), bound))))
  said <- tryCatch(parseNamespaceFile(basename(normalizePath(package)), dirname(normalizePath(package))),
    error = function(problem) list())
  list(name = name, parsed = parsed, holds = holds, imports = said$imports, exports = said$exports)
}
packages <- lapply(dirname(list.files(".", pattern = "^DESCRIPTION$", recursive = TRUE)), read_package)

# The names that a package takes from another, whole or one by one.
taken <- function(package, other) {
  imports <- Filter(function(import) identical(import[[1]], other$name), package$imports)
  unlist(lapply(imports, function(import) if (length(import) == 1) other$exports else unname(import[[2]])))
}

for (package in packages) {
  own <- unlist(package$holds)
  for (from in names(package$parsed)) {
    cat(sprintf(",%s\n", from))
    wanted <- unique(unlist(lapply(as.list(package$parsed[[from]]), used)))
    wanted <- as.character(setdiff(wanted, package$holds[[from]]))
    for (other in packages) {
      is_own <- identical(other$name, package$name)
      seen <- if (is_own) wanted else setdiff(intersect(wanted, taken(package, other)), own)
      spelled <- sub("^.*::", "", wanted[startsWith(wanted, paste0(other$name, "::"))])
      for (to in setdiff(names(other$parsed), from)) {
        if (any(c(seen, spelled) %in% other$holds[[to]])) cat(sprintf("%s,%s\n", from, to))
      }
    }
  }
}
