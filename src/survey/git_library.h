// libgit2, opened when first used. A function that is used anew gets a line here.
#pragma once

#include <git2.h>
#include <git2/sys/transport.h>

#include <memory>

#include "base/shared_library.h"

namespace coctilis {
extern const SharedLibrary git_library;
}  // namespace coctilis

#define COCTILIS_GIT(name) COCTILIS_FUNCTION_OF(::coctilis::git_library, name)
#define git_buf_dispose COCTILIS_GIT(git_buf_dispose)
#define git_checkout_tree COCTILIS_GIT(git_checkout_tree)
#define git_commit_create COCTILIS_GIT(git_commit_create)
#define git_commit_free COCTILIS_GIT(git_commit_free)
#define git_commit_lookup COCTILIS_GIT(git_commit_lookup)
#define git_config_find_global COCTILIS_GIT(git_config_find_global)
#define git_config_find_system COCTILIS_GIT(git_config_find_system)
#define git_config_find_xdg COCTILIS_GIT(git_config_find_xdg)
#define git_config_free COCTILIS_GIT(git_config_free)
#define git_config_open_level COCTILIS_GIT(git_config_open_level)
#define git_config_set_bool COCTILIS_GIT(git_config_set_bool)
#define git_config_set_string COCTILIS_GIT(git_config_set_string)
#define git_error_last COCTILIS_GIT(git_error_last)
#define git_error_set_str COCTILIS_GIT(git_error_set_str)
#define git_index_add COCTILIS_GIT(git_index_add)
#define git_index_add_all COCTILIS_GIT(git_index_add_all)
#define git_index_free COCTILIS_GIT(git_index_free)
#define git_index_get_bypath COCTILIS_GIT(git_index_get_bypath)
#define git_index_write COCTILIS_GIT(git_index_write)
#define git_index_write_tree COCTILIS_GIT(git_index_write_tree)
#define git_libgit2_init COCTILIS_GIT(git_libgit2_init)
#define git_libgit2_opts COCTILIS_GIT(git_libgit2_opts)
#define git_libgit2_shutdown COCTILIS_GIT(git_libgit2_shutdown)
#define git_object_free COCTILIS_GIT(git_object_free)
#define git_object_id COCTILIS_GIT(git_object_id)
#define git_object_peel COCTILIS_GIT(git_object_peel)
#define git_oid_fromstr COCTILIS_GIT(git_oid_fromstr)
#define git_oid_tostr COCTILIS_GIT(git_oid_tostr)
#define git_reference_free COCTILIS_GIT(git_reference_free)
#define git_reference_lookup COCTILIS_GIT(git_reference_lookup)
#define git_reference_name_to_id COCTILIS_GIT(git_reference_name_to_id)
#define git_reference_symbolic_target COCTILIS_GIT(git_reference_symbolic_target)
#define git_remote_create COCTILIS_GIT(git_remote_create)
#define git_remote_fetch COCTILIS_GIT(git_remote_fetch)
#define git_remote_free COCTILIS_GIT(git_remote_free)
#define git_remote_lookup COCTILIS_GIT(git_remote_lookup)
#define git_remote_set_url COCTILIS_GIT(git_remote_set_url)
#define git_remote_url COCTILIS_GIT(git_remote_url)
#define git_repository_commondir COCTILIS_GIT(git_repository_commondir)
#define git_repository_config COCTILIS_GIT(git_repository_config)
#define git_repository_free COCTILIS_GIT(git_repository_free)
#define git_repository_index COCTILIS_GIT(git_repository_index)
#define git_repository_init_ext COCTILIS_GIT(git_repository_init_ext)
#define git_repository_is_bare COCTILIS_GIT(git_repository_is_bare)
#define git_repository_open_bare COCTILIS_GIT(git_repository_open_bare)
#define git_repository_open_ext COCTILIS_GIT(git_repository_open_ext)
#define git_repository_path COCTILIS_GIT(git_repository_path)
#define git_repository_set_head_detached COCTILIS_GIT(git_repository_set_head_detached)
#define git_repository_set_workdir COCTILIS_GIT(git_repository_set_workdir)
#define git_revparse_single COCTILIS_GIT(git_revparse_single)
#define git_signature_free COCTILIS_GIT(git_signature_free)
#define git_signature_new COCTILIS_GIT(git_signature_new)
#define git_status_list_entrycount COCTILIS_GIT(git_status_list_entrycount)
#define git_status_list_free COCTILIS_GIT(git_status_list_free)
#define git_status_list_new COCTILIS_GIT(git_status_list_new)
#define git_transport_register COCTILIS_GIT(git_transport_register)
#define git_transport_smart COCTILIS_GIT(git_transport_smart)
#define git_tree_free COCTILIS_GIT(git_tree_free)
#define git_tree_lookup COCTILIS_GIT(git_tree_lookup)

namespace coctilis {
// Releases what the library has made.
struct GitRelease {
  void operator()(git_commit* p) const { git_commit_free(p); }
  void operator()(git_index* p) const { git_index_free(p); }
  void operator()(git_object* p) const { git_object_free(p); }
  void operator()(git_reference* p) const { git_reference_free(p); }
  void operator()(git_remote* p) const { git_remote_free(p); }
  void operator()(git_repository* p) const { git_repository_free(p); }
  void operator()(git_signature* p) const { git_signature_free(p); }
  void operator()(git_status_list* p) const { git_status_list_free(p); }
  void operator()(git_tree* p) const { git_tree_free(p); }
};
template <class T>
using GitHandle = std::unique_ptr<T, GitRelease>;
}  // namespace coctilis
