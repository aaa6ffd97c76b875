source("beds.R")
source("weather.R")
library(bloomsurvey)

beds <- read_beds("data/june.csv")
cat("June:", share_blooms(beds), "% flower in beds of", LEAST, "and more\n")
