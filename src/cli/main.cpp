// wren: the jobs of Upland Wren on the command line. Starts quickly: links the core only, no interface code.
#include "cli/command.hpp"

int main(int argc, char** argv) { return wren::cli::run(argc, argv); }
