// Tries situations for a while: net_run SECONDS [FIRST_SEED [x | s]]. With x the first finding is shrunk and
// shown as a scene, and nothing else is tried; with s the coincident and the generic situation of the seed
// are shown, and nothing is tried. net_run SECONDS FILE b tries what a fuzzer has kept in a file.
#include <sys/mman.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <iterator>
#include <string>

#include "dardo/io/scene.hpp"
#include "support/trials.hpp"

namespace {

using namespace dardo;
using Clock = std::chrono::steady_clock;

/// What outlives a process that breaks.
struct Shared {
  std::uint64_t seed = 0;
  bool coincident = true;
  std::size_t situations = 0, striking = 0, degenerate = 0, generic = 0, costly = 0, findings = 0;
};

constexpr std::uint64_t kNone = ~0ull;

const char* regime(bool coincident) { return coincident ? "coincident" : "generic"; }

void show(const test::Recipe& recipe, const std::string& title) {
  const test::Situation s = test::make_situation(recipe);
  std::printf("%s\n", io::scene_json({.title = title,
                                      .arena = s.arena,
                                      .attacks = {s.attack},
                                      .launches = {{s.launch, s.attack, {}}},
                                      .limits = s.limits})
                          .c_str());
  for (const test::Deed& d : s.deeds)
    std::printf("deed %d body %zu at %g\n", static_cast<int>(d.kind), d.body, d.time);
  std::printf("falls %d\n", s.struck_fall);
}

void show_shrunk(const test::Recipe& recipe, const std::string& complaint) {
  const test::Recipe least = test::shrunk(recipe, complaint);
  test::Tally ignored;
  std::printf("shrunk: %s\n", test::try_all(least, ignored).c_str());
  show(least, complaint.substr(0, complaint.find(':')));
}

void try_one(Shared& shared, bool shown) {
  const test::Recipe recipe = test::Recipe::random(shared.seed, shared.coincident);
  test::Tally tally;
  const auto start = Clock::now();
  const std::string complaint = test::try_all(recipe, tally);
  const double took = std::chrono::duration<double>(Clock::now() - start).count();
  shared.situations += tally.situations, shared.striking += tally.striking,
      shared.degenerate += tally.degenerate, shared.generic += tally.generic, shared.costly += tally.costly;
  const auto seed = static_cast<unsigned long long>(shared.seed);
  if (took > 2) std::printf("seed %llu %s took %.1f s\n", seed, regime(shared.coincident), took);
  if (!complaint.empty()) {
    ++shared.findings;
    std::printf("seed %llu %s: %s\n", seed, regime(shared.coincident), complaint.c_str());
    if (shown) {
      alarm(0);
      show_shrunk(recipe, complaint);
      shared.seed = kNone;
    }
  }
  std::fflush(stdout);
}

/// Whether the bytes of a fuzzer's file give a finding, which is shown.
bool show_kept(const char* file) {
  std::ifstream in(file, std::ios::binary);
  const std::vector<char> kept{std::istreambuf_iterator<char>(in), {}};
  const std::vector<std::uint8_t> bytes(kept.begin(), kept.end());
  const test::Recipe recipe = test::Recipe::of_bytes(bytes);
  test::Tally ignored;
  const std::string complaint = test::try_all(recipe, ignored);
  std::printf("%s\n", complaint.c_str());
  if (!complaint.empty()) show_shrunk(recipe, complaint);
  return !complaint.empty();
}

void next(Shared& shared) {
  if (!shared.coincident) ++shared.seed;
  shared.coincident = !shared.coincident;
}

}  // namespace

int main(int argc, char** argv) {
  const double seconds = argc > 1 ? std::atof(argv[1]) : 10;
  const std::string third = argc > 3 ? argv[3] : "";
  if (third == "s") {
    for (const bool coincident : {true, false})
      show(test::Recipe::random(std::strtoull(argv[2], nullptr, 10), coincident), regime(coincident));
    return 0;
  }
  if (third == "b") return show_kept(argv[2]);
  const bool shown = third == "x";
  void* memory = mmap(nullptr, sizeof(Shared), PROT_READ | PROT_WRITE, MAP_SHARED | MAP_ANONYMOUS, -1, 0);
  if (memory == MAP_FAILED) return 2;
  Shared& shared = *new (memory) Shared;
  shared.seed = argc > 2 ? std::strtoull(argv[2], nullptr, 10) : 1;
  const auto start = Clock::now();
  const auto over = [&] {
    return std::chrono::duration<double>(Clock::now() - start).count() >= seconds || shared.seed == kNone;
  };
  // One that breaks or does not come to an end is a finding, too: the next process goes on behind it.
  while (!over()) {
    std::fflush(stdout);
    const pid_t child = fork();
    if (child == 0) {
      do {
        alarm(30), try_one(shared, shown);
        if (shared.seed != kNone) next(shared);
      } while (!over());
      std::fflush(stdout);
      _exit(0);
    }
    int status = 0;
    waitpid(child, &status, 0);
    if (WIFEXITED(status) && WEXITSTATUS(status) == 0) break;
    ++shared.findings;
    std::printf("seed %llu %s %s\n", static_cast<unsigned long long>(shared.seed), regime(shared.coincident),
                WIFSIGNALED(status) && WTERMSIG(status) == SIGALRM ? "takes over 30 s" : "breaks");
    next(shared);
  }
  std::printf(
      "%zu situations, %zu strike somebody, %zu costly, %zu of %zu generic ones degenerate, %zu findings\n",
      shared.situations, shared.striking, shared.costly, shared.degenerate, shared.generic, shared.findings);
  return shared.findings > 0;
}
