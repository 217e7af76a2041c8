// wren with an invented part in its table.
#include "cli/command.hpp"

int main(int argc, char** argv) { return wren::cli::run(argc, argv); }
