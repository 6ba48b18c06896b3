! The time that passes, told by a clock of the C library.
module stopwatch
  use, intrinsic :: iso_c_binding, only: c_double
  use kinds, only: wp
  implicit none
  private
  public :: seconds_so_far
  interface
    function steady_seconds() bind(c, name='steady_seconds')
      import :: c_double
      real(c_double) :: steady_seconds
    end function steady_seconds
  end interface
contains
  real(wp) function seconds_so_far()
    seconds_so_far = real(steady_seconds(), wp)
  end function seconds_so_far
end module stopwatch
