# What a Makefile.PL says of a module by WriteMakefile(), written down as a makefile: Coctilis puts this file in the place
# of the module that such scripts load. Which keys there are, and what they mean: "Using Attributes and Parameters" of
# the documentation that scripts are written by.
package ExtUtils::MakeMaker;
use strict;
use warnings;
use Config;
use Cwd ();
use Exporter 'import';
use File::Find ();
use File::Spec ();

our $VERSION = '99';    # scripts ask for as much as they use
our $Verbose = 0;
our @EXPORT = qw(WriteMakefile prompt os_unsupported);
our @EXPORT_OK = qw($VERSION $Verbose neatvalue WriteEmptyMakefile _sprintf562 _sprintf562);
@MY::ISA = ('MM');
@MM::ISA = ('ExtUtils::MM_Unix');
@ExtUtils::MM::ISA = ('ExtUtils::MM_Unix');
@ExtUtils::MM_Unix::ISA = ('ExtUtils::MM_Any');
$INC{"ExtUtils/$_.pm"} = __FILE__ for qw(MM MM_Unix MM_Any);

sub prompt { my ($question, $default) = @_; print "$question [", $default // '', "]\n"; return $default // '' }
sub os_unsupported { die "OS unsupported\n" }
sub WriteEmptyMakefile { WriteMakefile(@_, C => [], XS => {}, PM => {}) }
sub neatvalue { my ($v) = @_; defined $v ? ref $v ? join(' ', map { neatvalue($_) } ref $v eq 'HASH' ? %$v : @$v) : "q[$v]" : 'undef' }
sub _sprintf562 { sprintf shift, @_ }

sub WriteMakefile {
  my $self = MM->new(@_ == 1 && ref $_[0] ? $_[0] : {@_});
  $self->flush;
  return $self;
}

package ExtUtils::MM_Any;
use strict;
use warnings;
use Config;

sub new {
  my ($class, $words) = @_;
  my %given = %$words;
  if (ref $given{CONFIGURE} eq 'CODE') { my $more = $given{CONFIGURE}->({%given}); %given = (%given, %$more) if ref $more eq 'HASH' }
  for my $word (@ARGV) { $given{$1} = $2 if $word =~ /^([A-Z_]+)=(.*)/s }
  my $self = bless {%given, ARGS => {%given}}, 'MY';
  $self->{MAKEFILE} ||= 'Makefile';
  if ($self->{XSMULTI}) {
    $self->{MORE_MODULES} = [map { {xs => $_, own_version => 1} } sources_below('lib', qr/\.xs$/)];
  }
  $self->look;
  return $self;
}
sub flush {
  my $self = shift;
  no strict 'refs';
  for my $name (sort keys %MY::) {
    die "this Makefile.PL replaces '$name', which is not followed\n" if $name =~ /^init_/ && defined &{"MY::$name"};
  }
  open(my $out, '>', $self->{MAKEFILE}) or die "$self->{MAKEFILE}: $!\n";
  print $out $self->whole;
  close($out) or die "$self->{MAKEFILE}: $!\n";
  open(my $tests, '>', 'Makefile.tests') or die "Makefile.tests: $!\n";
  print $tests map { "$_\n" } $self->tests;
  close($tests) or die "Makefile.tests: $!\n";
}
sub catfile { shift; File::Spec->catfile(@_) }
sub catdir { shift; File::Spec->catdir(@_) }
sub canonpath { shift; File::Spec->canonpath(@_) }
sub file_name_is_absolute { shift; File::Spec->file_name_is_absolute(@_) }
sub curdir { '.' }
sub updir { '..' }
sub path { File::Spec->path }
sub maybe_command { my ($self, $file) = @_; -f $file && -x _ ? $file : undef }
sub find_perl { $^X }
sub libscan { $_[1] }
sub os_flavor { 'Unix' }
sub is_make_type { $_[1] eq 'gmake' }
sub make { 'make' }
sub quote_literal { my ($self, $text) = @_; $text =~ s/'/'\\''/g; "'$text'" }
sub oneliner { my ($self, $code, $words) = @_; $code =~ s/\$(?!\()/\$\$/g; '$(PERL) ' . join(' ', @{$words || []}) . ' -e ' . $self->quote_literal($code) . ' --' }
sub echo { my ($self, $text) = @_; '@echo ' . $self->quote_literal($text) }
sub cd { my ($self, $folder, @commands) = @_; join "\n\t", map { "cd $folder && $_" } @commands }
# Files of a folder, at any depth, in order.
sub sources_below {
  my ($folder, $form) = @_;
  my @all;
  File::Find::find({no_chdir => 1, wanted => sub { push @all, $File::Find::name if -f && $_ =~ $form && !m{/\.} && !/[\s\$#%:;&|<>()*?\[\]{}`!=,'"\\]/ }}, $folder) if -d $folder;
  return sort @all;
}
sub has_link_code { my $self = shift; $self->{OBJECT} || @{$self->{C} || []} || $self->{MYEXTLIB} ? 1 : 0 }
sub needs_linking { $_[0]->has_link_code }
sub xs_obj_opt { '-o $@' }

# The value of the line that sets $VERSION, as the language itself comes to it.
sub parse_version {
  my ($self, $file) = @_;
  open(my $in, '<', $file) or die "Could not open '$file': $!\n";
  my $pod = 0;
  while (my $line = <$in>) {
    $pod = $line =~ /^=cut/ ? 0 : 1 if $line =~ /^=[a-zA-Z]/;
    next if $pod || $line =~ /^\s*#/;
    last if $line =~ /^__(END|DATA)__/;
    if ($line =~ /^\s*package\s+[\w:']+\s+(v?[0-9._]+)\s*[;{]/) { (my $v = $1) =~ s/^\s+//; return $v }
    next unless $line =~ /([\$*])(([\w:']*)\bVERSION)\b(?!\s*[=!<>]=).*(?<![=!<>])=(?![=>])/;
    my ($sigil, $name) = ($1, $2);
    my $code = "package ExtUtils::MakeMaker::_version; no strict; no warnings; our \$VERSION; local $sigil$name; \$$name = undef; do { $line }; \$$name";
    my $value = eval $code;
    next unless defined $value;
    $value = $value->stringify if ref $value && $value->can('stringify');
    $value = sprintf('v%vd', $value) if $value =~ /[^ -~]/;
    return $value;
  }
  return 'undef';
}
sub parse_abstract { '' }

# Whether the linker finds a library, in the folders of the words before it.
sub has_library {
  my ($folders, $name) = @_;
  for my $folder (@$folders) { return 1 if glob("$folder/lib$name.so") || -e "$folder/lib$name.a" }
  my $cc = $Config{cc};
  for my $file ("lib$name.so", "lib$name.a") {
    chomp(my $found = `$cc -print-file-name=$file 2>/dev/null`);
    return 1 if $found =~ m{/} && -e $found;
  }
  return 0;
}

# Of several lists of libraries the first all of which are there; else the first. What is not there is left out.
sub libraries {
  my ($self, $given) = @_;
  my @lists = ref $given eq 'ARRAY' ? @$given : defined $given ? ($given) : ();
  my @first;
  for my $list (@lists) {
    my (@words, @folders);
    my $all = 1;
    for my $word (grep { length } split ' ', $list // '') {
      push @folders, $1 if $word =~ /^-L(.+)/;
      if ($word =~ /^-l(.+)/) {
        my $there = has_library(\@folders, $1);
        print "checking for $1 in -l$1... ", $there ? "yes\n" : "no\n";
        $all = 0 unless $there;
        next unless $there;
      }
      next if $word =~ /^:/;
      push @words, $word;
    }
    return "@words" if $all;
    @first = @words unless @first;
  }
  return "@first";
}
sub ext { my ($self, $libs) = @_; my $found = $self->libraries($libs); ($found, '', $found, '') }

# Which files there are, and what has not been said.
sub look {
  my $self = shift;
  $self->{NAME} //= $self->{DISTNAME} // die "WriteMakefile() is given no NAME\n";
  (my $name = $self->{NAME}) =~ s/-/::/g;
  die "'$name' is no name of a module\n" unless $name =~ /^\w+(?:::\w+)*$/;
  $self->{NAME} = $name;
  ($self->{FULLEXT} = $name) =~ s{::}{/}g;
  ($self->{BASEEXT} = $name) =~ s/.*:://;
  ($self->{PARENT_NAME} = $name) =~ s/::\w+$// or $self->{PARENT_NAME} = '';
  ($self->{DISTNAME} //= $name) =~ s/::/-/g;
  $self->{VERSION} //= defined $self->{VERSION_FROM} ? $self->parse_version($self->{VERSION_FROM}) : '0';
  $self->{VERSION} =~ s/^\s+|\s+$//g;
  $self->{VERSION} =~ s/[^\w.\-]//g;
  $self->{XS_VERSION} //= $self->{VERSION};
  $self->{TOP} = $ENV{COCTILIS_MODULE_TOP} // '';
  $self->{INST_LIB} //= $self->{TOP} . 'blib/lib';
  $self->{INST_ARCHLIB} //= $self->{TOP} . 'blib/arch';
  $self->{PERL} = $^X;
  $self->{PERL_INC} //= "$Config{archlibexp}/CORE";
  opendir(my $here, '.') or die "the folder cannot be read: $!\n";
  my @names = sort grep { $self->libscan($_) } grep { !/^\./ && !/[\s\$#%:;&|<>()*?\[\]{}~`!=,'"\\]/ } readdir $here;
  closedir $here;
  $self->{XS} //= {map { (my $c = $_) =~ s/\.xs$/.c/; ($_ => $c) } grep { /\.xs$/ } @names};
  my %generated = map { $_ => 1 } values %{$self->{XS}};
  unless ($self->{C}) {
    my @c = grep { /\.(?:c|cc|cpp|cxx|C)$/ && $_ ne 'perlmain.c' && !$generated{$_} } @names;
    $self->{C} = [sort @c, keys %generated];
  }
  $self->{H} //= [grep { /\.h$/ } @names];
  $self->{O_FILES} = [map { (my $o = $_) =~ s/\.\w+$/.o/; $o } @{$self->{C}}];
  my $links = $self->{OBJECT} || @{$self->{C}} || $self->{MYEXTLIB};
  $self->{OBJECT} = join ' ', @{$self->{OBJECT}} if ref $self->{OBJECT} eq 'ARRAY';
  $self->{OBJECT} ||= $links ? '$(BASEEXT)$(OBJ_EXT)' : '';
  $self->{LINKS} = $links && !$self->{XSMULTI} && !(exists $self->{SKIP} && grep { $_ eq 'dynamic' } @{$self->{SKIP}}) ? 1 : 0;
  if (($self->{LINKS} || @{$self->{MORE_MODULES} || []}) && !-e "$self->{PERL_INC}/perl.h") { print "error: perl.h is not there: $self->{PERL_INC}/perl.h\n"; exit 1 }
  my $libraries = $self->{RAW_LIBRARIES} // $self->libraries($self->{LIBS});
  @$self{qw(EXTRALIBS LDLOADLIBS)} = ('', $libraries);
  my @typemaps = map { ref $_ ? @$_ : $_ } grep { defined } $self->{TYPEMAPS};
  push @typemaps, 'typemap' if -f 'typemap' && !grep { $_ eq 'typemap' } @typemaps;
  $self->{TYPEMAPS} = \@typemaps;
  $self->{DIR} //= [grep { -d $_ && -f "$_/Makefile.PL" && $_ ne 't' } @names];
  $self->look_for_modules(\@names);
  unless ($self->{PL_FILES}) {
    $self->{PL_FILES} = {map { (my $made = $_) =~ s/\.PL$//; ($_ => $made) } grep { /\.PL$/ && !/^(?:Makefile|Build)\.PL$/ } @names};
  }
  for my $key (qw(PREREQ_PM BUILD_REQUIRES TEST_REQUIRES)) { $self->look_for_required($self->{$key}) }
  for my $folder (@{$self->{DIR}}) {
    next unless -f "$folder/Makefile.PL";
    my $depth = () = $folder =~ m{/}g;
    local $ENV{COCTILIS_MODULE_TOP} = '../' x ($depth + 1) . $self->{TOP};
    unlink "$folder/Makefile";
    my $ended = system('/bin/sh', '-c', 'cd "$1" && exec "$2" Makefile.PL', 'sh', $folder, $^X);
    die "Makefile.PL in $folder failed\n" if $ended != 0;
  }
}

sub look_for_required {
  my ($self, $required) = @_;
  for my $module (sort keys %{$required || {}}) {
    next if $module eq 'perl' || $module !~ /^\w+(?:::\w+)*$/;
    (my $file = "$module.pm") =~ s{::}{/}g;
    my ($place) = grep { !ref && -f "$_/$file" } @INC;
    $place = 'lib' if !defined $place && -f "lib/$file";
    my $answer = 'no';
    if (defined $place) {
      my $version = eval { $self->parse_version("$place/$file") } // 'undef';
      my $wanted = $required->{$module} // 0;
      my $enough = $wanted =~ /^[\d.]+$/ && $version =~ /^[\d.]+$/ ? eval { version->parse($version) >= version->parse($wanted) } // 1 : 1;
      $answer = $enough ? 'yes' : "no (version $version, $wanted is wanted)";
    }
    print "checking for module $module... $answer\n";
  }
}

# Where each module, and what goes with it, is put.
sub look_for_modules {
  my ($self, $names) = @_;
  return if $self->{PM};
  my %all;
  my $beside = join '/', '$(INST_LIB)', $self->{PARENT_NAME} ne '' ? split(/::/, $self->{PARENT_NAME}) : ();
  $all{$_} = "$beside/$_" for grep { /\.(?:pm|pl|pod)$/ && -f $_ && !/^(?:Makefile|Build|test)\.pl$/ } @$names;
  for my $top (@{$self->{PMLIBDIRS} || ['lib', $self->{BASEEXT}]}) {
    next unless -d $top;
    my $into = $top eq 'lib' ? '$(INST_LIB)' : "$beside/$top";
    File::Find::find({no_chdir => 1, wanted => sub {
      my $path = $File::Find::name;
      return if !-f $path || $path =~ m{/\.} || $path =~ /\.(?:PL|in|xs|xsi|c|cc|cpp|h|o|orig|rej|bak)$|~$/;
      return if $path =~ /[\s\$#%:;&|<>()*?\[\]{}`!=,'"\\]/;
      return unless $self->libscan($path);
      (my $below = $path) =~ s{^\Q$top\E/}{};
      $all{$path} = "$into/$below";
    }}, $top);
  }
  $self->{PM} = \%all;
}

sub tests {
  my $self = shift;
  my $given = ref $self->{test} eq 'HASH' ? $self->{test}{TESTS} : undef;
  my @all = map { glob } split ' ', $given // (-d 't' ? 't/*.t' : '');
  push @all, 'test.pl' if !@all && -f 'test.pl';
  my %seen;
  return grep { -f $_ && !$seen{$_}++ } @all;
}

# ---- the makefile, in the sections that a script may replace ---------------------------------------------------------

my @sections = qw(constants post_initialize more_modules const_loadlibs const_cccmd const_config tools_other xsubpp post_constants cflags macro depend top_targets
                  c_o xs_c xs_o dlsyms linkext static_lib special_targets perldepend dynamic dynamic_lib static subdirs pm_to_blib processPL installbin install postamble);
# Of others a script may only change what is no part of a build.
sub AUTOLOAD {
  our $AUTOLOAD;
  (my $name = $AUTOLOAD) =~ s/.*:://;
  return '' if $name eq 'DESTROY' || $name =~ /^(?:init_|dist|clean|realclean|test|man|pod|metafile|ppd|tools_|post_init|makeaperl|staticmake|signature|license|special_targets|static_lib|linkext|dlsyms|const_|pasthru|blibdirs|platform_constants|perldepend|help|ci|tardist|zipdist|uutardist|shdist|manifest|install|MakeMaker|makefile|force|htmlifypods|manifypods|subdir_x|pm_to_blib|xs_|c_o|quick|fixin|make_|arch_check|reduce_|extra_|get_|all_|add_|max_|escape_|wraplist|split_|replace_|guess_|export_list|_)/;
  die "this Makefile.PL uses '$name' of what it is based on, which is not followed\n";
}

sub whole {
  my $self = shift;
  my $text = "# Written by Coctilis from what Makefile.PL says.\n";
  for my $name (@sections) {
    my @words = $name eq 'cflags' ? ($self->{LIBPERL_A} // '') : %{$self->{ARGS}{$name} && ref $self->{ARGS}{$name} eq 'HASH' ? $self->{ARGS}{$name} : {}};
    my $part = $self->$name(@words);
    $text .= "\n# $name\n$part\n" if defined $part && length $part;
  }
  # What a script replaces may come without a tab that a makefile wants; such a line is taken as it is.
  return $text;
}

sub constants {
  my $self = shift;
  my %of = (
    NAME => $self->{NAME}, NAME_SYM => join('_', split /\W+/, $self->{NAME}), DISTNAME => $self->{DISTNAME}, BASEEXT => $self->{BASEEXT}, FULLEXT => $self->{FULLEXT},
    PARENT_NAME => $self->{PARENT_NAME}, DLBASE => '$(BASEEXT)', VERSION => $self->{VERSION}, XS_VERSION => $self->{XS_VERSION},
    VERSION_MACRO => 'VERSION', XS_VERSION_MACRO => 'XS_VERSION', DEFINE_VERSION => '-D$(VERSION_MACRO)=\"$(VERSION)\"',
    XS_DEFINE_VERSION => '-D$(XS_VERSION_MACRO)=\"$(XS_VERSION)\"',
    INST_LIB => $self->{INST_LIB}, INST_ARCHLIB => $self->{INST_ARCHLIB}, INST_SCRIPT => $self->{TOP} . 'blib/script', INST_BIN => $self->{TOP} . 'blib/bin',
    INST_LIBDIR => join('/', '$(INST_LIB)', $self->{PARENT_NAME} ne '' ? split(/::/, $self->{PARENT_NAME}) : ()),
    INST_ARCHLIBDIR => join('/', '$(INST_ARCHLIB)', $self->{PARENT_NAME} ne '' ? split(/::/, $self->{PARENT_NAME}) : ()),
    INST_AUTODIR => '$(INST_LIB)/auto/$(FULLEXT)', INST_ARCHAUTODIR => '$(INST_ARCHLIB)/auto/$(FULLEXT)',
    INST_DYNAMIC => $self->{LINKS} ? '$(INST_ARCHAUTODIR)/$(DLBASE).$(DLEXT)' : '', INST_STATIC => '', INST_BOOT => '',
    PERL => $self->{PERL}, FULLPERL => $self->{PERL}, ABSPERL => $self->{PERL}, PERLRUN => '$(PERL)', FULLPERLRUN => '$(PERL)', ABSPERLRUN => '$(PERL)',
    PERLRUNINST => '$(PERL) -I$(INST_ARCHLIB) -I$(INST_LIB)', FULLPERLRUNINST => '$(PERLRUNINST)', ABSPERLRUNINST => '$(PERLRUNINST)',
    PERL_LIB => $Config{privlibexp}, PERL_ARCHLIB => $Config{archlibexp}, PERL_INC => $self->{PERL_INC}, PERL_ARCHIVE => '', PERL_ARCHIVE_AFTER => '',
    OBJECT => $self->{OBJECT}, LDFROM => $self->{LDFROM} // '$(OBJECT)', MYEXTLIB => $self->{MYEXTLIB} // '', C_FILES => join(' ', @{$self->{C}}),
    O_FILES => join(' ', @{$self->{O_FILES}}), XS_FILES => join(' ', sort keys %{$self->{XS}}), H_FILES => join(' ', @{$self->{H}}),
    INC => $self->{INC} // '', DEFINE => $self->{DEFINE} // '', LIB_EXT => '.a', OBJ_EXT => '.o', EXE_EXT => '', DLEXT => $Config{dlext}, SO => $Config{so},
    FIRST_MAKEFILE => 'Makefile', MAKEFILE => 'Makefile', MAKEFILE_OLD => 'Makefile.old', USEMAKEFILE => '-f', MAKE_APERL_FILE => 'Makefile.aperl',
    MM_VERSION => $ExtUtils::MakeMaker::VERSION, LINKTYPE => 'dynamic', BOOTDEP => '', EXPORT_LIST => '', PASTHRU => '', PASTHRU_DEFINE => '', PASTHRU_INC => '', LDDLFLAGS_MORE => '',
    LIBPERL_A => 'libperl.a', TO_INST_PM => join(' ', sort keys %{$self->{PM}}), EXE_FILES => join(' ', @{$self->{EXE_FILES} || []}));
  my $folder = $Config{installsitearch};
  $folder =~ s/^\Q$Config{siteprefix}\E/\$(prefix)/;
  $of{module_folder} = "\$(DESTDIR)$folder";
  $of{prefix} = $self->{PREFIX} // $self->{INSTALL_BASE} // '/usr/local';
  return ".DEFAULT_GOAL := all\n" . join('', map { "$_ = $of{$_}\n" } sort keys %of);
}
sub const_config {
  my $self = shift;
  return join '', map { "$_->[0] = " . ($self->{$_->[0]} // $Config{$_->[1]} // '') . "\n" }
    (['CC', 'cc'], ['LD', 'ld'], ['LDDLFLAGS', 'lddlflags'], ['LDFLAGS', 'ldflags'], ['CCCDLFLAGS', 'cccdlflags'], ['CCDLFLAGS', 'ccdlflags'],
     ['AR', 'ar'], ['RANLIB', 'ranlib'], ['CPPRUN', 'cpprun']);
}
sub const_loadlibs { my $self = shift; "EXTRALIBS = $self->{EXTRALIBS}\nLDLOADLIBS = $self->{LDLOADLIBS}\n" }
sub const_cccmd { 'CCCMD = $(CC) -c $(PASTHRU_INC) $(INC) $(CCFLAGS) $(OPTIMIZE) $(PERLTYPE) $(MPOLLUTE) $(DEFINE_VERSION) $(XS_DEFINE_VERSION)' }
sub cflags {
  my $self = shift;
  my $flags = $self->{CCFLAGS} // $Config{ccflags};
  my $optimize = $self->{OPTIMIZE} // $Config{optimize};
  return "CCFLAGS = $flags\nOPTIMIZE = $optimize\nPERLTYPE =\nMPOLLUTE =\n";
}
sub tools_other {
  return join '', map { "$_\n" } 'SHELL = /bin/sh', 'CHMOD = chmod', 'CP = cp', 'MV = mv', 'RM_F = rm -f', 'RM_RF = rm -rf', 'TEST_F = test -f', 'TOUCH = touch', 'NOOP = :', 'NOECHO = @',
    'MKPATH = mkdir -p', 'ECHO = echo', 'ECHO_N = echo -n', 'DEV_NULL = > /dev/null 2>&1', 'FALSE = false', 'TRUE = true', 'UMASK_NULL = umask 0', 'PERM_RW = 644', 'PERM_RWX = 755', 'PERM_DIR = 755', 'EQUALIZE_TIMESTAMP = touch', 'LD_RUN_PATH =';
}
sub xsubpp {
  my $self = shift;
  my @maps = ("$Config{privlibexp}/ExtUtils/typemap", @{$self->{TYPEMAPS}});
  return 'XSUBPP = /usr/bin/xsubpp' . "\n" . 'XSUBPPRUN = $(XSUBPP)' . "\n" . 'XSPROTOARG = ' . ($self->{XSPROTOARG} // '') . "\n" .
    'XSUBPPDEPS = ' . join(' ', @{$self->{TYPEMAPS}}) . "\n" . 'XSUBPPARGS = ' . join(' ', map { "-typemap '$_'" } @maps) . ' ' . ($self->{XSOPT} // '') . "\nXSUBPP_EXTRA_ARGS =\n";
}
sub post_constants { '' }
sub postamble { my ($self, %given) = @_; join "\n", map { $given{$_} } sort keys %given }
sub macro { my ($self, %given) = @_; join '', map { "$_ = $given{$_}\n" } sort keys %given }
sub depend { my ($self, %given) = @_; join '', map { "$_ : " . (ref $given{$_} ? join(' ', @{$given{$_}}) : $given{$_}) . "\n" } sort keys %given }
sub top_targets {
  my $self = shift;
  my $o = @{$self->{O_FILES}} && @{$self->{H}} ? '$(O_FILES) : $(H_FILES)' . "\n" : '';
  return "all :: pure_all\n\npure_all :: config pm_to_blib subdirs dynamic\n\nconfig ::\n\n$o.PHONY: all pure_all config subdirs dynamic static install\n";
}
sub c_o {
  my $self = shift;
  return '' unless $self->{LINKS} || @{$self->{MORE_MODULES} || []};
  return join "\n", map { "%.o : %.$_\n\t\$(CCCMD) \$(CCCDLFLAGS) \"-I\$(PERL_INC)\" \$(PASTHRU_DEFINE) \$(DEFINE) -o \$@ \$<\n" } qw(c cc cpp cxx C);
}
sub xs_c {
  my $self = shift;
  return join "\n", map { "$self->{XS}{$_} : $_ \$(XSUBPPDEPS)\n\t\$(XSUBPPRUN) \$(XSPROTOARG) \$(XSUBPPARGS) \$(XSUBPP_EXTRA_ARGS) $_ > $self->{XS}{$_}\n" } sort keys %{$self->{XS}};
}
sub xs_o { '' }
sub dynamic { "dynamic :: \$(FIRST_MAKEFILE) \$(INST_DYNAMIC)\n" }
sub static { "static ::\n" }
sub dynamic_lib {
  my ($self, %given) = @_;
  return '' unless $self->{LINKS};
  my $other = $given{OTHERLDFLAGS} // '';
  my $deps = $given{INST_DYNAMIC_DEP} // '';
  return "OTHERLDFLAGS = $other\nINST_DYNAMIC_DEP = $deps\nINST_DYNAMIC_FIX =\n\n" .
    "\$(INST_DYNAMIC) : \$(OBJECT) \$(MYEXTLIB) \$(INST_DYNAMIC_DEP)\n\t\$(NOECHO) \$(MKPATH) \$(\@D)\n" .
    "\t\$(LD) \$(LDDLFLAGS) \$(LDFROM) \$(OTHERLDFLAGS) -o \$\@ \$(MYEXTLIB) \$(PERL_ARCHIVE) \$(LDLOADLIBS) \$(PERL_ARCHIVE_AFTER) \$(EXPORT_LIST) \$(INST_DYNAMIC_FIX)\n";
}
# Modules beside the one that the script is named for, each by its place below lib/.
sub more_modules {
  my $self = shift;
  my $text = '';
  for my $one (@{$self->{MORE_MODULES} || []}) {
    (my $stem = $one->{xs}) =~ s/\.xs$//;
    (my $full = $one->{full} // $stem) =~ s{^lib/}{};
    (my $base = $full) =~ s{.*/}{};
    my $made = "\$(INST_ARCHLIB)/auto/$full/$base.\$(DLEXT)";
    my $c = $one->{c} // "$stem.c";
    my $objects = join ' ', "$stem.o", @{$self->{MORE_OBJECTS} || []};
    if ($one->{own_version} && -f "$stem.pm") {
      my $version = $self->parse_version("$stem.pm");
      $text .= "$stem.o : VERSION = $version\n$stem.o : XS_VERSION = $version\n" if $version =~ /^[\w.\-]+$/ && $version ne 'undef';
    }
    $text .= "$c : $one->{xs} \$(XSUBPPDEPS)\n\t\$(XSUBPPRUN) \$(XSPROTOARG) \$(XSUBPPARGS) \$(XSUBPP_EXTRA_ARGS) $one->{xs} > $c\n\n" .
      "dynamic :: $made\n\n$made : $objects\n\t\$(NOECHO) \$(MKPATH) \$(\@D)\n\t\$(LD) \$(LDDLFLAGS) $objects \$(OTHERLDFLAGS) -o \$\@ \$(LDLOADLIBS)\n\n";
  }
  return $text;
}
sub subdirs {
  my $self = shift;
  my $text = '';
  for my $folder (@{$self->{DIR}}) {
    $text .= "subdirs :: \$(MYEXTLIB)\n\t\$(NOECHO) cd $folder && \$(MAKE) \$(USEMAKEFILE) \$(FIRST_MAKEFILE) all \$(PASTHRU)\n\n" if -f "$folder/Makefile";
  }
  return $text || "subdirs ::\n";
}
# One rule for all, as others may name it.
sub pm_to_blib {
  my $self = shift;
  my $text = 'pm_to_blib : $(FIRST_MAKEFILE) $(TO_INST_PM)' . "\n";
  for my $from (sort keys %{$self->{PM}}) {
    my $to = $self->{PM}{$from};
    (my $folder = $to) =~ s{/[^/]*$}{};
    $text .= "\t\$(NOECHO) \$(MKPATH) $folder && \$(RM_F) $to && \$(CP) $from $to\n";
    if ($from =~ /\.pm$/ && open(my $in, '<', $from)) {
      local $/;
      my $content = <$in>;
      # What is loaded on demand lies in files of its own.
      $text .= "\t\$(PERL) -MAutoSplit -e 'autosplit(\$\$ARGV[0], \$\$ARGV[1], 0, 1, 1)' $to \$(INST_LIB)/auto\n" if $content =~ /^__END__/m && $content =~ /AutoLoader/;
    }
  }
  return "$text\t\$(NOECHO) \$(TOUCH) pm_to_blib\n";
}
sub processPL {
  my $self = shift;
  my $text = '';
  my %files = %{$self->{PL_FILES} || {}};
  for my $script (sort keys %files) {
    my @made = ref $files{$script} eq 'ARRAY' ? @{$files{$script}} : ref $files{$script} eq 'HASH' ? sort keys %{$files{$script}} : $files{$script};
    for my $made (@made) {
      my $after = exists $self->{PM}{$made} ? '' : ' | pm_to_blib';
      $text .= "all :: $made\n\n$made : $script$after\n\t\$(PERLRUNINST) $script $made\n\n";
    }
  }
  return $text;
}
sub installbin {
  my $self = shift;
  my $text = '';
  for my $from (@{$self->{EXE_FILES} || []}) {
    (my $name = $from) =~ s{.*/}{};
    $text .= "pure_all :: \$(INST_SCRIPT)/$name\n\n\$(INST_SCRIPT)/$name : $from\n\t\$(NOECHO) \$(MKPATH) \$(INST_SCRIPT)\n\t\$(RM_F) \$\@\n" .
      "\t\$(PERL) -pe 's{^#!.*perl\\S*}{#!\$(PERL)} if \$\$. == 1' $from > \$\@\n\t\$(CHMOD) \$(PERM_RWX) \$\@\n\n";
  }
  return $text;
}
sub install {
  my $self = shift;
  return '' if $self->{TOP} ne '';
  return "install :: all\n\tmkdir -p \$(module_folder)\n\tfor from in blib/lib blib/arch; do if test -d \$\$from; then cp -R \$\$from/. \$(module_folder)/ || exit 1; fi; done\n" .
    "\tif test -d blib/script; then mkdir -p \$(DESTDIR)\$(prefix)/bin && cp -R blib/script/. \$(DESTDIR)\$(prefix)/bin/; fi\n";
}

package ExtUtils::Liblist;
$INC{'ExtUtils/Liblist.pm'} = 'ExtUtils/MakeMaker.pm';
sub ext { my ($class, $libs) = @_; ExtUtils::MM_Any->ext($libs) }

# ---- what a Build.PL says ---------------------------------------------------------------------------------------------

package Module::Build;
$INC{'Module/Build.pm'} = __FILE__;
our $VERSION = '99';
our $AUTOLOAD;

sub new { my ($class, %given) = @_; return bless {given => {%given}, notes => {}}, ref $class || $class }
sub subclass {
  my ($class, %given) = @_;
  my $name = $given{class} // 'MyModuleBuilder';
  my $code = $given{code} // '';
  die "this Build.PL changes how things are compiled or linked, which is not followed\n" if $code =~ /sub\s+(?:ACTION_(?:code|build)|process_|compile_|link_|_infer_)/;
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
sub notes { my ($self, $name, $value) = @_; $self->{notes}{$name} = $value if @_ > 2; return defined $name ? $self->{notes}{$name} : $self->{notes} }
sub config { my ($self, $name, $value) = @_; return $Config::Config{$name} unless @_ > 2; $self->{given}{config}{$name} = $value }
sub dist_version { my $self = shift; return $self->version_of_it }
sub check_installed_status { my ($self, $module) = @_; (my $file = "$module.pm") =~ s{::}{/}g; my $there = grep { !ref && -f "$_/$file" } @INC; return {ok => $there ? 1 : 0, have => $there ? 1 : '<none>'} }
sub DESTROY { }
# Each property is asked for and set by its name.
sub AUTOLOAD {
  my ($self, @values) = @_;
  (my $name = $AUTOLOAD) =~ s/.*:://;
  die "this Build.PL uses '$name' of what it is based on, which is not followed\n" if !ref $self || $name !~ /^[a-z_]+$/ || $name =~ /^(?:dispatch|do_system|cbuilder|depends_on|find_|rscan|copy_if)/;
  my $is_list = $name =~ /^(?:extra_(?:compiler|linker)_flags|include_dirs)$/;
  $self->{given}{$name} = @values > 1 ? [@values] : $is_list && !ref $values[0] ? [split ' ', $values[0] // ''] : $values[0] if @values;
  return $self->{given}{$name} //= $is_list ? [] : undef;
}

sub words_of { my ($value) = @_; return ref $value eq 'ARRAY' ? @$value : defined $value ? split(' ', $value) : () }
sub folders_of { my ($value) = @_; return ref $value eq 'ARRAY' ? @$value : defined $value && length $value ? ($value) : () }
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
  die "this Build.PL changes how things are compiled or linked, which is not followed\n" if grep { $self->can($_) } qw(ACTION_code ACTION_build);
  my @sources = map { ExtUtils::MM_Any::sources_below($_, qr/\.(?:c|cc|cpp|cxx|C)$/) } folders_of($given->{c_source});
  my %modules = $given->{xs_files} ? %{$given->{xs_files}} : map { ($_ => $_) } ExtUtils::MM_Any::sources_below('lib', qr/\.xs$/);
  my %generated;
  my @modules = map { (my $c = $_) =~ s/\.xs$/.c/; $generated{$c} = 1; (my $full = $modules{$_}) =~ s/\.xs$//; {xs => $_, c => $c, full => $full} } sort keys %modules;
  my $config = $given->{config} || {};
  my $modules_of = sub { my %all; %all = (%all, %{$given->{$_} || {}}) for @_; \%all };
  (my $name = $given->{module_name} // $given->{dist_name}) =~ s/-/::/g;
  ExtUtils::MakeMaker::WriteMakefile(
    NAME => $name, VERSION => $self->version_of_it, C => [], XS => {}, PL_FILES => $given->{PL_files} || {},
    MORE_MODULES => \@modules, MORE_OBJECTS => [map { s/\.\w+$/.o/r } grep { !$generated{$_} } @sources],
    INC => join(' ', map { "-I$_" } folders_of($given->{include_dirs}), folders_of($given->{c_source})),
    CCFLAGS => join(' ', $config->{ccflags} // $Config::Config{ccflags}, words_of($given->{extra_compiler_flags})),
    RAW_LIBRARIES => join(' ', words_of($given->{extra_linker_flags})),
    (map { defined $config->{$_->[0]} ? ($_->[1] => $config->{$_->[0]}) : () } ['cc', 'CC'], ['ld', 'LD'], ['optimize', 'OPTIMIZE'], ['lddlflags', 'LDDLFLAGS']),
    PREREQ_PM => $modules_of->(qw(requires build_requires test_requires)),
    EXE_FILES => [ref $given->{script_files} eq 'HASH' ? sort keys %{$given->{script_files}} : folders_of($given->{script_files})],
    test => {TESTS => $given->{test_files} ? join(' ', folders_of($given->{test_files})) : $given->{recursive_test_files} ? join(' ', ExtUtils::MM_Any::sources_below('t', qr/\.t$/)) : 't/*.t'});
}

# The short form: all is as usual, and what the module is called stands in META.json.
package Module::Build::Tiny;
$INC{'Module/Build/Tiny.pm'} = __FILE__;
our $VERSION = '99';
our @EXPORT = qw(Build_PL);
sub import { no strict 'refs'; my $into = caller; *{"${into}::Build_PL"} = \&Build_PL }
sub Build_PL {
  require JSON::PP;
  open(my $in, '<', 'META.json') or die "META.json: $!\n";
  my $meta = JSON::PP->new->decode(do { local $/; <$in> });
  my %required;
  for my $phase (qw(runtime build test)) { %required = (%required, %{$meta->{prereqs}{$phase}{requires} || {}}) }
  Module::Build->new(dist_name => $meta->{name}, dist_version => $meta->{version}, requires => \%required,
    script_files => [ExtUtils::MM_Any::sources_below('script', qr/./)])->create_build_script;
}

1;
