// nlohmann::json, whose templates are compiled once for the whole house: each file that reads or writes JSON
// would spend a quarter of its compiler's time on them.
#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <string_view>

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
