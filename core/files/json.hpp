// nlohmann::json, whose templates are compiled once for the whole house, in json.cpp: they took an eighth of
// the compiler's time of files that read or write JSON. What is not named here is compiled where it is used,
// as ever.
#pragma once

#include <nlohmann/json.hpp>
#include <string>

NLOHMANN_JSON_NAMESPACE_BEGIN
extern template class basic_json<>;
namespace detail {
extern template class serializer<json>;
extern template class lexer<json, iterator_input_adapter<const char *>>;
extern template class parser<json, iterator_input_adapter<const char *>>;
extern template class lexer<json, iterator_input_adapter<std::string::const_iterator>>;
extern template class parser<json, iterator_input_adapter<std::string::const_iterator>>;
extern template class lexer<json, input_stream_adapter>;
extern template class parser<json, input_stream_adapter>;
extern template class json_sax_dom_parser<json>;
extern template class json_sax_dom_callback_parser<json>;
} // namespace detail
NLOHMANN_JSON_NAMESPACE_END
