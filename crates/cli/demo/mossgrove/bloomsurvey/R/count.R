# How many plants flower in the beds that were seen.
count_blooms <- function(beds, least = LEAST) {
  seen <- beds[beds$plants >= least, ]
  stats::aggregate(seen$blooms, by = list(seen$bed), FUN = sum)
}

# Beds with fewer plants say nothing.
LEAST <- 5
