#include "files/json.hpp"

NLOHMANN_JSON_NAMESPACE_BEGIN
template class basic_json<>;
namespace detail {
template class serializer<json>;
template class lexer<json, iterator_input_adapter<const char *>>;
template class parser<json, iterator_input_adapter<const char *>>;
template class lexer<json, iterator_input_adapter<std::string::const_iterator>>;
template class parser<json, iterator_input_adapter<std::string::const_iterator>>;
template class lexer<json, input_stream_adapter>;
template class parser<json, input_stream_adapter>;
template class json_sax_dom_parser<json>;
template class json_sax_dom_callback_parser<json>;
} // namespace detail
NLOHMANN_JSON_NAMESPACE_END
