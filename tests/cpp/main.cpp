#define CATCH_CONFIG_MAIN
#include <testthat/vendor/catch.h>
