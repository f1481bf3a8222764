// The result-or-error type that every function that can fail returns.
#pragma once

#include <string>
#include <utility>

#include <tl/expected.hpp>

namespace pear {

/// Each kind is one exit code of the program. The kinds differ in what the user does next.
enum class ErrorKind {
  internal = 1,  ///< A failed check or a defect of ours: report it, do not trust the figures.
  usage = 2,     ///< The command line is wrong: correct it and run the command again.
  data = 3,      ///< The input is wrong: correct the file, or say how to read it.
  io = 4,        ///< A file cannot be read or written: check path, permissions and space.
};

/// One or more plain sentences that say what is wrong, where, the value found and the remedy.
struct Error {
  ErrorKind kind = ErrorKind::internal;
  std::string message;
};

template <class T>
using OrError = tl::expected<T, Error>;

inline tl::unexpected<Error> internal_error(std::string message) {
  return tl::unexpected<Error>({ErrorKind::internal, std::move(message)});
}
inline tl::unexpected<Error> usage_error(std::string message) {
  return tl::unexpected<Error>({ErrorKind::usage, std::move(message)});
}
inline tl::unexpected<Error> data_error(std::string message) {
  return tl::unexpected<Error>({ErrorKind::data, std::move(message)});
}
inline tl::unexpected<Error> io_error(std::string message) {
  return tl::unexpected<Error>({ErrorKind::io, std::move(message)});
}

}  // namespace pear

/// Returns the error from the enclosing function, if there is one.
#define PEAR_TRY(expression)                                                 \
  do {                                                                       \
    if (auto pear_outcome = (expression); !pear_outcome)                     \
      return tl::unexpected<::pear::Error>(std::move(pear_outcome).error()); \
  } while (false)

/// PEAR_ASSIGN(auto x, f()): x is the value of f(); returns f()'s error from the enclosing function
/// otherwise.
#define PEAR_ASSIGN(declaration, expression) \
  PEAR_ASSIGN_NAMED(PEAR_CONCAT(pear_outcome_, __LINE__), declaration, expression)
#define PEAR_ASSIGN_NAMED(outcome, declaration, expression)                       \
  auto outcome = (expression);                                                    \
  if (!outcome) return tl::unexpected<::pear::Error>(std::move(outcome).error()); \
  declaration = *std::move(outcome)
#define PEAR_CONCAT(a, b) PEAR_CONCAT_INNER(a, b)
#define PEAR_CONCAT_INNER(a, b) a##b
