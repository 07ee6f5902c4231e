// The main function of every core test program.
#define CATCH_CONFIG_MAIN
#include <catch2/catch.hpp>
