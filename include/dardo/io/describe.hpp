#pragma once
#include <map>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "dardo/io/problem.hpp"
#include "dardo/io/scene.hpp"

namespace dardo::io {

/// The words of descriptions: a sentence for each key, with named places. What stands in [brackets] is left
/// out where a place in it says no more than what is so anyhow. A key is the way to what it is of, as
/// "attack.effects.damage"; with ".short" for a short line, ".weak" for what an attack is bad at, ".always"
/// for what is told though it is so anyhow; "words.foe" is how a word of the data is said.
class Messages {
 public:
  /// Those that come with the library: the installed messages.json is the same as a file.
  static const Messages& standard();
  /// From JSON, an object of texts. Problems with what is no text, and with brackets that do not match. Keys
  /// that are not in it are not told.
  static FileResult<Messages> parse(std::string_view text, std::string_view name);

  /// Nothing where the key has no sentence.
  const std::string* find(std::string_view key) const;
  const std::map<std::string, std::string, std::less<>>& all() const { return sentences_; }

 private:
  std::map<std::string, std::string, std::less<>> sentences_;
};

/// One sentence: its key, what stands in its places, and the text that both make.
struct Told {
  std::string key;
  std::vector<std::pair<std::string, std::string>> places;
  std::string text;
  int depth = 0;  ///< of attacks within attacks
};
/// One thing that the attack says: where in its data, what, and what that means.
struct ToldNumber {
  std::string pointer, value, says;
  friend bool operator==(const ToldNumber&, const ToldNumber&) = default;
};

/// An attack in words, all made from its data.
struct Description {
  std::string line;                 ///< for a tooltip
  std::vector<Told> text;           ///< in full
  std::vector<Told> bad_at;         ///< what keeps it from striking
  std::vector<ToldNumber> numbers;  ///< whatever it says, also where no sentence tells it
};
Description describe(const Scene& scene, const Attack& attack,
                     const Messages& messages = Messages::standard());

/// What two attacks say otherwise; empty where one says nothing.
struct ToldDifference {
  std::string pointer, says, one, other;
};
std::vector<ToldDifference> compare(const Description& one, const Description& other);

}  // namespace dardo::io
