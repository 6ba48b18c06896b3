! Brings a value near to what it will be, without overshooting.
module relaxation
  use kinds, only: wp
  implicit none
  private
  public :: relaxed
contains
  pure real(wp) function relaxed(old, new, share)
    real(wp), intent(in) :: old, new, share
    relaxed = old + min(1.0_wp, max(0.0_wp, share))*(new - old)
  end function relaxed
end module relaxation
