! Sums whose digits do not hang on how the work is shared out: all addends are gathered first.
module sums
  use kinds, only: wp
  implicit none
  private
  public :: total
contains
  pure real(wp) function total(addends)
    real(wp), intent(in) :: addends(:)
    integer :: i
#ifdef FAST_SUMS
    total = sum(addends)
    i = 0
#else
    real(wp) :: rest, y, t
    total = 0.0_wp
    rest = 0.0_wp
    do i = 1, size(addends)
      y = addends(i) - rest
      t = total + y
      rest = (t - total) - y
      total = t
    end do
#endif
  end function total
end module sums
