// Tries situations for a while: net_run SECONDS [FIRST_SEED]. A finding is shrunk and shown as a scene.
#include <unistd.h>

#include <chrono>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <string>

#include "dardo/io/scene.hpp"
#include "support/trials.hpp"

namespace {

volatile unsigned long long trying = 0;

/// One that does not come to an end is a finding, too, and one that stops the program.
void broken(int signal) {
  std::printf("seed %llu (%s) %s\n", trying / 2, trying % 2 ? "coincident" : "generic",
              signal == SIGALRM ? "takes over 20 s" : "breaks");
  std::fflush(stdout);
  _exit(1);
}

}  // namespace

int main(int argc, char** argv) {
  using namespace dardo;
  using Clock = std::chrono::steady_clock;
  const double seconds = argc > 1 ? std::atof(argv[1]) : 10;
  std::uint64_t seed = argc > 2 ? std::strtoull(argv[2], nullptr, 10) : 1;
  const bool show = argc > 3;
  for (const int signal : {SIGALRM, SIGABRT, SIGSEGV, SIGFPE}) std::signal(signal, broken);
  test::Tally tally;
  std::map<std::string, std::size_t> kinds;
  std::size_t findings = 0;
  const auto start = Clock::now();
  const auto passed = [&] { return std::chrono::duration<double>(Clock::now() - start).count(); };
  for (; passed() < seconds; ++seed) {
    for (const bool coincident : {true, false}) {
      const test::Recipe recipe = test::Recipe::random(seed, coincident);
      trying = seed * 2 + coincident;
      alarm(20);
      const auto before = passed();
      const std::string complaint = test::try_all(recipe, tally);
      if (passed() - before > 1)
        std::printf("seed %llu %s took %.1f s\n", static_cast<unsigned long long>(seed),
                    coincident ? "coincident" : "generic", passed() - before);
      if (complaint.empty()) continue;
      ++findings;
      const std::string kind = complaint.substr(0, complaint.find(':'));
      if (++kinds[kind] <= 3)
        std::printf("seed %llu %s: %s\n", static_cast<unsigned long long>(seed),
                    coincident ? "coincident" : "generic", complaint.c_str());
      std::fflush(stdout);
      if (show) {
        alarm(0);
        const test::Recipe least = test::shrunk(recipe, complaint);
        test::Tally ignored;
        std::printf("shrunk: %s\n", test::try_all(least, ignored).c_str());
        const test::Situation s = test::make_situation(least);
        std::printf("%s\n", io::scene_json({.title = kind,
                                            .arena = s.arena,
                                            .attacks = {s.attack},
                                            .launches = {{s.launch, s.attack, {}}}})
                                .c_str());
        for (const test::Deed& d : s.deeds)
          std::printf("deed %d body %zu at %g\n", static_cast<int>(d.kind), d.body, d.time);
        std::printf("falls %d\n", s.struck_fall);
        return 1;
      }
    }
  }
  std::printf("%zu costly; ", tally.costly);
  std::printf("%zu situations, %zu strike somebody, %zu of %zu generic ones degenerate, %zu findings\n",
              tally.situations, tally.striking, tally.degenerate, tally.generic, findings);
  for (const auto& [kind, n] : kinds) std::printf("  %zu %s\n", n, kind.c_str());
  return findings > 0;
}
