#include "kit/id_list_model.hpp"
