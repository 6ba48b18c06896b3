# What a Build.PL says of a module, handed on to WriteMakefile(): Coctilis puts this file in the place of the module
# that such scripts load.
package Module::Build;
use strict;
use warnings;
use Config;
use ExtUtils::MakeMaker ();

our $VERSION = '99';
our $AUTOLOAD;

sub new { my ($class, %given) = @_; return bless {given => {%given}, notes => {}}, ref $class || $class }
sub subclass {
  my ($class, %given) = @_;
  my $name = $given{class} // 'MyModuleBuilder';
  my $code = $given{code} // '';
  eval "package $name; our \@ISA = ('$class'); $code; 1" or die $@;
  return $name;
}
sub current { bless {given => {}, notes => {}}, 'Module::Build' }
sub prompt { ExtUtils::MakeMaker::prompt($_[1], $_[2]) }
sub y_n { (defined $_[2] && $_[2] =~ /^y/i) ? 1 : 0 }
sub have_c_compiler { 1 }
sub is_unixish { 1 }
sub os_type { 'Unix' }
sub is_windowsish { 0 }
sub add_to_cleanup { }
sub add_build_element { }
sub log_warn { my $self = shift; print @_ }
sub log_info { my $self = shift; print @_ }
sub args { my ($self, $name) = @_; return defined $name ? undef : wantarray ? () : {} }
sub runtime_params { }
sub notes {
  my ($self, $name, $value) = @_;
  $self->{notes}{$name} = $value if @_ > 2;
  return defined $name ? $self->{notes}{$name} : $self->{notes};
}
sub config {
  my ($self, $name, $value) = @_;
  $self->{given}{config}{$name} = $value if @_ > 2;
  return $self->{given}{config}{$name} // $Config{$name};
}
sub dist_version { my $self = shift; return $self->version_of_it }
sub check_installed_status {
  my ($self, $module) = @_;
  (my $file = "$module.pm") =~ s{::}{/}g;
  my $there = grep { !ref && -f "$_/$file" } @INC;
  return {ok => $there ? 1 : 0, have => $there ? 1 : '<none>'};
}
sub DESTROY { }
# Each property is asked for and set by its name.
sub AUTOLOAD {
  my ($self, @values) = @_;
  (my $name = $AUTOLOAD) =~ s/.*:://;
  die "this Build.PL uses '$name' of what it is based on, which is not followed\n"
    if !ref $self || $name !~ /^[a-z_]+$/ || $name =~ /^(?:dispatch|do_system|cbuilder|depends_on|find_|rscan|copy_if)/;
  my $is_list = $name =~ /^(?:extra_(?:compiler|linker)_flags|include_dirs)$/;
  if (@values) {
    my $one = $is_list && !ref $values[0] ? [split ' ', $values[0] // ''] : $values[0];
    $self->{given}{$name} = @values > 1 ? [@values] : $one;
  }
  return $self->{given}{$name} //= $is_list ? [] : undef;
}

sub words_of { my ($value) = @_; return ref $value eq 'ARRAY' ? @$value : defined $value ? split(' ', $value) : () }
sub folders_of {
  my ($value) = @_;
  return ref $value eq 'ARRAY' ? @$value : defined $value && length $value ? ($value) : ();
}
sub version_of_it {
  my $self = shift;
  my $given = $self->{given};
  return $given->{dist_version} if defined $given->{dist_version};
  (my $module = 'lib/' . ($given->{module_name} // ($given->{dist_name} // '') =~ s/-/::/gr) . '.pm') =~ s{::}{/}g;
  return ExtUtils::MM_Any->parse_version($given->{dist_version_from} // $module);
}

sub create_build_script {
  my $self = shift;
  my $given = $self->{given};
  my @own = grep { $self->can($_) } qw(ACTION_code ACTION_build compile_c link_c process_xs process_xs_files);
  die "this Build.PL has its own $own[0], which is not followed\n" if @own;
  my @sources = map { ExtUtils::MM_Any::sources_below($_, qr/\.(?:c|cc|cpp|cxx|C)$/) } folders_of($given->{c_source});
  my @xs = ExtUtils::MM_Any::sources_below('lib', qr/\.xs$/);
  my %modules = $given->{xs_files} ? %{$given->{xs_files}} : map { ($_ => $_) } @xs;
  my (%generated, @modules);
  for my $xs (sort keys %modules) {
    (my $c = $xs) =~ s/\.xs$/.c/;
    (my $full = $modules{$xs}) =~ s/\.xs$//;
    $generated{$c} = 1;
    push @modules, {xs => $xs, c => $c, full => $full};
  }
  my $config = $given->{config} || {};
  my $scripts = $given->{script_files};
  my $tests = $given->{test_files} ? join(' ', folders_of($given->{test_files}))
    : $given->{recursive_test_files} ? join(' ', ExtUtils::MM_Any::sources_below('t', qr/\.t$/)) : 't/*.t';
  my $modules_of = sub { my %all; %all = (%all, %{$given->{$_} || {}}) for @_; \%all };
  (my $name = $given->{module_name} // $given->{dist_name}) =~ s/-/::/g;
  ExtUtils::MakeMaker::WriteMakefile(
    NAME => $name, VERSION => $self->version_of_it, C => [], XS => {}, PL_FILES => $given->{PL_files} || {},
    MORE_MODULES => \@modules, MORE_OBJECTS => [map { s/\.\w+$/.o/r } grep { !$generated{$_} } @sources],
    INC => join(' ', map { "-I$_" } folders_of($given->{include_dirs}), folders_of($given->{c_source})),
    CCFLAGS => join(' ', $config->{ccflags} // $Config{ccflags}, words_of($given->{extra_compiler_flags})),
    RAW_LIBRARIES => join(' ', words_of($given->{extra_linker_flags})),
    (map { defined $config->{$_} ? (uc $_ => $config->{$_}) : () } qw(cc ld optimize lddlflags)),
    PREREQ_PM => $modules_of->(qw(requires build_requires test_requires)),
    EXE_FILES => [ref $scripts eq 'HASH' ? sort keys %$scripts : folders_of($scripts)], test => {TESTS => $tests});
}

1;
