// The whole engine on situations made of a fuzzer's bytes: each is run in all ways that must give the same.
#include <cstdio>
#include <cstdlib>

#include "support/trials.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static dardo::test::Tally tally;
  const std::string complaint = dardo::test::try_all(dardo::test::Recipe::of_bytes({data, size}), tally);
  if (complaint.empty()) return 0;
  std::fprintf(stderr, "%s\n", complaint.c_str());
  std::abort();
}
