# What a Makefile.PL says of a module by WriteMakefile(), written down as a makefile: Coctilis puts this file in the
# place of the module that such scripts load. What is not followed ends the script with a word on it.
package ExtUtils::MakeMaker;
use strict;
use warnings;
use Config;
use Exporter 'import';
use File::Find ();
use File::Spec ();

our $VERSION = '99';    # scripts ask for as much as they use
# What was written the last time must not pass for what the script writes now.
unlink qw(Makefile Makefile.tests) if $0 =~ m{(?:^|/)(?:Makefile|Build)\.PL$};
our $Verbose = 0;
our @EXPORT = qw(WriteMakefile prompt os_unsupported);
our @EXPORT_OK = qw($VERSION $Verbose neatvalue WriteEmptyMakefile);
@MY::ISA = ('MM');
@MM::ISA = ('ExtUtils::MM_Unix');
@ExtUtils::MM::ISA = ('ExtUtils::MM_Unix');
@ExtUtils::MM_Unix::ISA = ('ExtUtils::MM_Any');
$INC{"ExtUtils/$_.pm"} = __FILE__ for qw(MM MM_Unix MM_Any);

sub prompt { my ($question, $default) = @_; print "$question [", $default // '', "]\n"; return $default // '' }
sub os_unsupported { die "OS unsupported\n" }
sub WriteEmptyMakefile { WriteMakefile(@_, C => [], XS => {}, PM => {}) }
sub neatvalue {
  my ($value) = @_;
  return 'undef' unless defined $value;
  return "q[$value]" unless ref $value;
  return join ' ', map { neatvalue($_) } ref $value eq 'HASH' ? %$value : @$value;
}

sub WriteMakefile {
  my $self = MM->new(@_ == 1 && ref $_[0] ? $_[0] : {@_});
  $self->flush;
  return $self;
}

package ExtUtils::MM_Any;
use strict;
use warnings;
use Config;

# Characters that cannot stand in a name in a makefile.
my $odd = qr/[\s\$#%:;&|<>()*?\[\]{}`!=,'"\\]/;

sub new {
  my ($class, $words) = @_;
  my %given = %$words;
  if (ref $given{CONFIGURE} eq 'CODE') {
    my $more = $given{CONFIGURE}->({%given});
    %given = (%given, %$more) if ref $more eq 'HASH';
  }
  for my $word (@ARGV) { $given{$1} = $2 if $word =~ /^([A-Z_]+)=(.*)/s }
  my $self = bless {%given, ARGS => {%given}}, 'MY';
  $self->{MAKEFILE} ||= 'Makefile';
  $self->{MORE_MODULES} ||= [];
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
sub oneliner {
  my ($self, $code, $words) = @_;
  $code =~ s/\$(?!\()/\$\$/g;
  return '$(PERL) ' . join(' ', @{$words || []}) . ' -e ' . $self->quote_literal($code) . ' --';
}
sub echo { my ($self, $text) = @_; '@echo ' . $self->quote_literal($text) }
sub cd { my ($self, $folder, @commands) = @_; join "\n\t", map { "cd $folder && $_" } @commands }
# Files of a folder, at any depth, in order.
sub sources_below {
  my ($folder, $form) = @_;
  my @all;
  my $wanted = sub { push @all, $_ if -f $_ && $_ =~ $form && !m{/\.} && $_ !~ $odd };
  File::Find::find({no_chdir => 1, wanted => $wanted}, $folder) if -d $folder;
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
    my $code = "package ExtUtils::MakeMaker::_version; no strict; no warnings; our \$VERSION; "
      . "local $sigil$name; \$$name = undef; do { $line }; \$$name";
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
  for my $folder (@$folders) { return 1 if -e "$folder/lib$name.so" || -e "$folder/lib$name.a" }
  for my $file ("lib$name.so", "lib$name.a") {
    open(my $in, '-|', $Config{cc}, "-print-file-name=$file") or next;
    chomp(my $found = <$in> // '');
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
  $self->look_at_names;
  opendir(my $here, '.') or die "the folder cannot be read: $!\n";
  my @names = sort grep { $self->libscan($_) } grep { !/^\./ && !/~$/ && $_ !~ $odd } readdir $here;
  closedir $here;
  $self->look_for_sources(\@names);
  $self->look_for_modules(\@names);
  $self->{PL_FILES} ||= {map { (my $made = $_) =~ s/\.PL$//; ($_ => $made) }
                         grep { /\.PL$/ && !/^(?:Makefile|Build)\.PL$/ } @names};
  $self->look_for_required($self->{$_}) for qw(PREREQ_PM BUILD_REQUIRES TEST_REQUIRES);
  $self->{DIR} //= [grep { -d $_ && -f "$_/Makefile.PL" && $_ ne 't' } @names];
  $self->{DIR} = [grep { -f "$_/Makefile.PL" } @{$self->{DIR}}];
  for my $folder (@{$self->{DIR}}) {
    my $depth = () = $folder =~ m{/}g;
    local $ENV{COCTILIS_MODULE_TOP} = '../' x ($depth + 1) . $self->{TOP};
    unlink "$folder/Makefile", "$folder/Makefile.tests";
    my $ended = system('/bin/sh', '-c', 'cd "$1" && exec "$2" Makefile.PL', 'sh', $folder, $^X);
    die "Makefile.PL in $folder failed\n" if $ended != 0;
  }
}

sub look_at_names {
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
  $self->{VERSION} =~ s/[^\w.\-]//g;
  $self->{XS_VERSION} //= $self->{VERSION};
  $self->{TOP} = $ENV{COCTILIS_MODULE_TOP} // '';
  $self->{INST_LIB} //= $self->{TOP} . 'blib/lib';
  $self->{INST_ARCHLIB} //= $self->{TOP} . 'blib/arch';
  $self->{PERL} = $^X;
  $self->{PERL_INC} //= "$Config{archlibexp}/CORE";
}

sub look_for_sources {
  my ($self, $names) = @_;
  $self->{XS} //= {map { (my $c = $_) =~ s/\.xs$/.c/; ($_ => $c) } grep { /\.xs$/ } @$names};
  my %generated = map { $_ => 1 } values %{$self->{XS}};
  $self->{C} ||= [sort keys %generated,
                  grep { /\.(?:c|cc|cpp|cxx|C)$/ && $_ ne 'perlmain.c' && !$generated{$_} } @$names];
  $self->{H} //= [grep { /\.h$/ } @$names];
  $self->{O_FILES} = [map { (my $o = $_) =~ s/\.\w+$/.o/; $o } @{$self->{C}}];
  my $links = $self->{OBJECT} || @{$self->{C}} || $self->{MYEXTLIB};
  $self->{OBJECT} = join ' ', @{$self->{OBJECT}} if ref $self->{OBJECT} eq 'ARRAY';
  $self->{OBJECT} ||= $links ? '$(BASEEXT)$(OBJ_EXT)' : '';
  my $skipped = grep { $_ eq 'dynamic' } @{$self->{SKIP} || []};
  $self->{LINKS} = $links && !$self->{XSMULTI} && !$skipped ? 1 : 0;
  if (($self->{LINKS} || @{$self->{MORE_MODULES}}) && !-e "$self->{PERL_INC}/perl.h") {
    print "error: perl.h is not there: $self->{PERL_INC}/perl.h\n";
    exit 1;
  }
  $self->{EXTRALIBS} = '';
  $self->{LDLOADLIBS} = $self->{RAW_LIBRARIES} // $self->libraries($self->{LIBS});
  my @typemaps = map { ref $_ ? @$_ : $_ } grep { defined } $self->{TYPEMAPS};
  push @typemaps, 'typemap' if -f 'typemap' && !grep { $_ eq 'typemap' } @typemaps;
  $self->{TYPEMAPS} = \@typemaps;
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
      my $told = $wanted =~ /^[\d.]+$/ && $version =~ /^[\d.]+$/;
      my $enough = $told ? eval { version->parse($version) >= version->parse($wanted) } // 1 : 1;
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
    for my $path (sources_below($top, qr/./)) {
      next if $path =~ /\.(?:PL|in|xs|xsi|c|cc|cpp|h|o|orig|rej|bak)$|~$/ || !$self->libscan($path);
      (my $below = $path) =~ s{^\Q$top\E/}{};
      $all{$path} = "$into/$below";
    }
  }
  $self->{PM} = \%all;
}

# Each test with the folder that it runs in: those of this script and of those below.
sub tests {
  my $self = shift;
  my $given = ref $self->{test} eq 'HASH' ? $self->{test}{TESTS} : undef;
  my @all = map { glob } split ' ', $given // (-d 't' ? 't/*.t' : '');
  push @all, 'test.pl' if !@all && -f 'test.pl';
  my %seen;
  my @lines = map { ".\t$_" } grep { -f $_ && !$seen{$_}++ } @all;
  for my $folder (@{$self->{DIR}}) {
    open(my $in, '<', "$folder/Makefile.tests") or next;
    while (my $line = <$in>) { chomp $line; push @lines, "$folder/$line" }
  }
  return @lines;
}

# ---- the makefile, in the sections that a script may replace ---------------------------------------------------------

my @sections = qw(
  constants post_initialize more_modules const_loadlibs const_cccmd const_config tools_other xsubpp post_constants cflags
  macro depend top_targets c_o xs_c xs_o dlsyms linkext static_lib special_targets perldepend dynamic dynamic_lib static
  subdirs pm_to_blib processPL installbin install postamble);
# What else a script may change: it is no part of a build, or nothing here.
my %aside = map { $_ => 1 } (@sections, qw(
  DESTROY blibdirs clean clean_subdirs const_config dist dist_basics dist_ci dist_core dist_dir dist_test distdir
  distmeta_target distsignature_target makeaperl makefile manifypods man1podsext metafile metafile_target mymeta_target
  pasthru platform_constants post_initialize ppd realclean signature_target staticmake test test_via_harness
  test_via_script tool_autosplit tool_xsubpp tools_other uninstall));
sub AUTOLOAD {
  our $AUTOLOAD;
  (my $name = $AUTOLOAD) =~ s/.*:://;
  return '' if $aside{$name};
  die "this Makefile.PL uses '$name' of what it is based on, which is not followed\n";
}

sub whole {
  my $self = shift;
  my $text = "# Written by Coctilis from what Makefile.PL says.\n";
  for my $name (@sections) {
    my $given = $self->{ARGS}{$name};
    my $part = $self->$name(ref $given eq 'HASH' ? %$given : ());
    $text .= "\n# $name\n$part\n" if defined $part && length $part;
  }
  return $text;
}

sub constants {
  my $self = shift;
  my @parents = $self->{PARENT_NAME} ne '' ? split(/::/, $self->{PARENT_NAME}) : ();
  my $folder = $Config{installsitearch};
  $folder =~ s/^\Q$Config{siteprefix}\E/\$(prefix)/;
  my %of = (
    (map { $_ => $self->{$_} // '' } qw(
      NAME DISTNAME BASEEXT FULLEXT PARENT_NAME VERSION XS_VERSION INST_LIB INST_ARCHLIB PERL PERL_INC OBJECT MYEXTLIB
      INC DEFINE)),
    (map { $_ => '' } qw(
      INST_STATIC INST_BOOT PERL_ARCHIVE PERL_ARCHIVE_AFTER BOOTDEP EXPORT_LIST PASTHRU PASTHRU_DEFINE PASTHRU_INC)),
    (map { $_ => '$(PERL)' } qw(FULLPERL ABSPERL PERLRUN FULLPERLRUN ABSPERLRUN)),
    (map { $_ => '$(PERL) -I$(INST_ARCHLIB) -I$(INST_LIB)' } qw(PERLRUNINST FULLPERLRUNINST ABSPERLRUNINST)),
    NAME_SYM => join('_', split /\W+/, $self->{NAME}), DLBASE => '$(BASEEXT)',
    VERSION_MACRO => 'VERSION', XS_VERSION_MACRO => 'XS_VERSION',
    DEFINE_VERSION => '-D$(VERSION_MACRO)=\"$(VERSION)\"',
    XS_DEFINE_VERSION => '-D$(XS_VERSION_MACRO)=\"$(XS_VERSION)\"',
    INST_SCRIPT => $self->{TOP} . 'blib/script', INST_BIN => $self->{TOP} . 'blib/bin',
    INST_LIBDIR => join('/', '$(INST_LIB)', @parents), INST_ARCHLIBDIR => join('/', '$(INST_ARCHLIB)', @parents),
    INST_AUTODIR => '$(INST_LIB)/auto/$(FULLEXT)', INST_ARCHAUTODIR => '$(INST_ARCHLIB)/auto/$(FULLEXT)',
    INST_DYNAMIC => $self->{LINKS} ? '$(INST_ARCHAUTODIR)/$(DLBASE).$(DLEXT)' : '',
    PERL_LIB => $Config{privlibexp}, PERL_ARCHLIB => $Config{archlibexp},
    LDFROM => $self->{LDFROM} // '$(OBJECT)', C_FILES => join(' ', @{$self->{C}}),
    O_FILES => join(' ', @{$self->{O_FILES}}), XS_FILES => join(' ', sort keys %{$self->{XS}}),
    H_FILES => join(' ', @{$self->{H}}), TO_INST_PM => join(' ', sort keys %{$self->{PM}}),
    EXE_FILES => join(' ', @{$self->{EXE_FILES} || []}),
    LIB_EXT => '.a', OBJ_EXT => '.o', EXE_EXT => '', DLEXT => $Config{dlext}, SO => $Config{so}, LIBPERL_A => 'libperl.a',
    FIRST_MAKEFILE => 'Makefile', MAKEFILE => 'Makefile', MAKEFILE_OLD => 'Makefile.old', USEMAKEFILE => '-f',
    MM_VERSION => $ExtUtils::MakeMaker::VERSION, LINKTYPE => 'dynamic',
    prefix => $self->{PREFIX} // $self->{INSTALL_BASE} // '/usr/local', module_folder => "\$(DESTDIR)$folder");
  return ".DEFAULT_GOAL := all\n" . join('', map { "$_ = $of{$_}\n" } sort keys %of);
}
sub const_config {
  my $self = shift;
  return join '', map { "$_ = " . ($self->{$_} // $Config{lc $_} // '') . "\n" }
    qw(CC LD LDDLFLAGS LDFLAGS CCCDLFLAGS CCDLFLAGS AR RANLIB CPPRUN);
}
sub const_loadlibs { my $self = shift; "EXTRALIBS = $self->{EXTRALIBS}\nLDLOADLIBS = $self->{LDLOADLIBS}\n" }
sub const_cccmd {
  return 'CCCMD = $(CC) -c $(PASTHRU_INC) $(INC) $(CCFLAGS) $(OPTIMIZE) $(PERLTYPE) $(MPOLLUTE) '
    . '$(DEFINE_VERSION) $(XS_DEFINE_VERSION)';
}
sub cflags {
  my $self = shift;
  my $flags = $self->{CCFLAGS} // $Config{ccflags};
  my $optimize = $self->{OPTIMIZE} // $Config{optimize};
  return "CCFLAGS = $flags\nOPTIMIZE = $optimize\nPERLTYPE =\nMPOLLUTE =\n";
}
sub tools_other {
  return join '', map { "$_\n" }
    'SHELL = /bin/sh', 'CHMOD = chmod', 'CP = cp', 'MV = mv', 'RM_F = rm -f', 'RM_RF = rm -rf', 'TEST_F = test -f',
    'TOUCH = touch', 'NOOP = :', 'NOECHO = @', 'MKPATH = mkdir -p', 'ECHO = echo', 'ECHO_N = echo -n',
    'DEV_NULL = > /dev/null 2>&1', 'FALSE = false', 'TRUE = true', 'UMASK_NULL = umask 0', 'PERM_RW = 644',
    'PERM_RWX = 755', 'PERM_DIR = 755', 'EQUALIZE_TIMESTAMP = touch', 'LD_RUN_PATH =';
}
sub xsubpp {
  my $self = shift;
  my $maps = join ' ', map { "-typemap '$_'" } "$Config{privlibexp}/ExtUtils/typemap", @{$self->{TYPEMAPS}};
  return join '', map { "$_\n" }
    'XSUBPP = /usr/bin/xsubpp', 'XSUBPPRUN = $(XSUBPP)', 'XSPROTOARG = ' . ($self->{XSPROTOARG} // ''),
    "XSUBPPDEPS = @{$self->{TYPEMAPS}}", "XSUBPPARGS = $maps " . ($self->{XSOPT} // ''), 'XSUBPP_EXTRA_ARGS =';
}
sub post_constants { '' }
sub postamble { my ($self, %given) = @_; join "\n", map { $given{$_} } sort keys %given }
sub macro { my ($self, %given) = @_; join '', map { "$_ = $given{$_}\n" } sort keys %given }
sub depend {
  my ($self, %given) = @_;
  my $words = sub { ref $_[0] ? join(' ', @{$_[0]}) : $_[0] };
  return join '', map { "$_ : " . $words->($given{$_}) . "\n" } sort keys %given;
}
sub top_targets {
  my $self = shift;
  return "all :: pure_all\n\npure_all :: config pm_to_blib subdirs dynamic\n\nconfig ::\n\n"
    . ".PHONY: all pure_all config subdirs dynamic static install\n";
}
sub c_o {
  my $self = shift;
  return '' unless $self->{LINKS} || @{$self->{MORE_MODULES}};
  my $command = '$(CCCMD) $(CCCDLFLAGS) "-I$(PERL_INC)" $(PASTHRU_DEFINE) $(DEFINE) -o $@ $<';
  return join "\n", map { "%.o : %.$_\n\t$command\n" } qw(c cc cpp cxx C);
}
# The rule by which a source becomes one of C.
sub xs_rule {
  my ($xs, $c) = @_;
  return "$c : $xs \$(XSUBPPDEPS)\n"
    . "\t\$(XSUBPPRUN) \$(XSPROTOARG) \$(XSUBPPARGS) \$(XSUBPP_EXTRA_ARGS) $xs > $c\n";
}
sub xs_c { my $self = shift; join "\n", map { xs_rule($_, $self->{XS}{$_}) } sort keys %{$self->{XS}} }
sub xs_o { '' }
sub dynamic { "dynamic :: \$(FIRST_MAKEFILE) \$(INST_DYNAMIC)\n" }
sub static { "static ::\n" }
sub dynamic_lib {
  my ($self, %given) = @_;
  return '' unless $self->{LINKS};
  my $before = join '', map { "$_ = " . ($given{$_} // '') . "\n" } qw(OTHERLDFLAGS INST_DYNAMIC_DEP);
  return $before . 'INST_DYNAMIC_FIX =

$(INST_DYNAMIC) : $(OBJECT) $(MYEXTLIB) $(INST_DYNAMIC_DEP)
	$(NOECHO) $(MKPATH) $(@D)
	$(LD) $(LDDLFLAGS) $(LDFROM) $(OTHERLDFLAGS) -o $@ $(MYEXTLIB) $(PERL_ARCHIVE) $(LDLOADLIBS) $(PERL_ARCHIVE_AFTER) $(EXPORT_LIST) $(INST_DYNAMIC_FIX)
';
}
# Modules beside the one that the script is named for, each by its place below lib/.
sub more_modules {
  my $self = shift;
  my $text = '';
  for my $one (@{$self->{MORE_MODULES}}) {
    (my $stem = $one->{xs}) =~ s/\.xs$//;
    (my $full = $one->{full} // $stem) =~ s{^lib/}{};
    (my $base = $full) =~ s{.*/}{};
    my $made = "\$(INST_ARCHLIB)/auto/$full/$base.\$(DLEXT)";
    my $c = $one->{c} // "$stem.c";
    my $objects = join ' ', "$stem.o", @{$self->{MORE_OBJECTS} || []};
    if ($one->{own_version} && -f "$stem.pm") {
      my $version = $self->parse_version("$stem.pm");
      $text .= "$stem.o : VERSION = $version\n$stem.o : XS_VERSION = $version\n"
        if $version =~ /^[\w.\-]+$/ && $version ne 'undef';
    }
    $text .= xs_rule($one->{xs}, $c) . "\ndynamic :: $made\n\n$made : $objects\n\t\$(NOECHO) \$(MKPATH) \$(\@D)\n"
      . "\t\$(LD) \$(LDDLFLAGS) $objects \$(OTHERLDFLAGS) -o \$\@ \$(LDLOADLIBS)\n\n";
  }
  return $text;
}
sub subdirs {
  my $self = shift;
  my $text = '';
  for my $folder (@{$self->{DIR}}) {
    next unless -f "$folder/Makefile";
    $text .= "subdirs :: \$(MYEXTLIB)\n"
      . "\t\$(NOECHO) cd $folder && \$(MAKE) \$(USEMAKEFILE) \$(FIRST_MAKEFILE) all \$(PASTHRU)\n\n";
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
      $text .= "\t\$(PERL) -MAutoSplit -e 'autosplit(\$\$ARGV[0], \$\$ARGV[1], 0, 1, 1)' $to \$(INST_LIB)/auto\n"
        if $content =~ /^__END__/m && $content =~ /AutoLoader/;
    }
  }
  return "$text\t\$(NOECHO) \$(TOUCH) pm_to_blib\n";
}
sub processPL {
  my $self = shift;
  my $text = '';
  my %files = %{$self->{PL_FILES} || {}};
  for my $script (sort keys %files) {
    my $given = $files{$script};
    my @made = ref $given eq 'ARRAY' ? @$given : ref $given eq 'HASH' ? sort keys %$given : $given;
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
    my $to = "\$(INST_SCRIPT)/$name";
    $text .= "pure_all :: $to\n\n$to : $from\n\t\$(NOECHO) \$(MKPATH) \$(INST_SCRIPT)\n\t\$(RM_F) \$\@\n"
      . "\t\$(PERL) -pe 's{^#!.*perl\\S*}{#!\$(PERL)} if \$\$. == 1' $from > \$\@\n\t\$(CHMOD) \$(PERM_RWX) \$\@\n\n";
  }
  return $text;
}
sub install {
  my $self = shift;
  return '' if $self->{TOP} ne '';
  return 'install :: all
	mkdir -p $(module_folder)
	for from in blib/lib blib/arch; do if test -d $$from; then cp -R $$from/. $(module_folder)/ || exit 1; fi; done
	if test -d blib/script; then mkdir -p $(DESTDIR)$(prefix)/bin && cp -R blib/script/. $(DESTDIR)$(prefix)/bin/; fi
';
}

package ExtUtils::Liblist;
$INC{'ExtUtils/Liblist.pm'} = 'ExtUtils/MakeMaker.pm';
sub ext { my ($class, $libs) = @_; ExtUtils::MM_Any->ext($libs) }

1;
