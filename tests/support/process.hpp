#pragma once
#include <fcntl.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstdlib>
#include <string>
#include <vector>

#include "support/files.hpp"

namespace dardo::test {

struct Finished {
  int code = -1;
  std::string out, err;
};

/// Runs a program to its end; standard input is `input`.
inline Finished run(const std::vector<std::string>& command, const std::string& input = "") {
  Folder folder;
  write_file(folder / "in", input);
  const pid_t child = ::fork();
  if (child == 0) {
    const auto redirect = [&](const char* name, int flags, int to) {
      ::dup2(::open((folder / name).c_str(), flags, 0600), to);
    };
    redirect("in", O_RDONLY, STDIN_FILENO);
    redirect("out", O_WRONLY | O_CREAT, STDOUT_FILENO);
    redirect("err", O_WRONLY | O_CREAT, STDERR_FILENO);
    std::vector<char*> arguments;
    for (const std::string& c : command) arguments.push_back(const_cast<char*>(c.c_str()));
    arguments.push_back(nullptr);
    ::execv(arguments[0], arguments.data());
    ::_exit(127);
  }
  int status = 0;
  ::waitpid(child, &status, 0);
  return {WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status), read_file(folder / "out"),
          read_file(folder / "err")};
}

}  // namespace dardo::test
