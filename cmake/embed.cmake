# Run by dardo_embed: writes OUTPUT, a C++ source that holds INPUT as a string.
file(READ "${INPUT}" text)
file(WRITE "${OUTPUT}"
"#include <string_view>
extern const std::string_view dardo_embedded_${NAME};
const std::string_view dardo_embedded_${NAME} = R\"embedded(${text})embedded\";
")
