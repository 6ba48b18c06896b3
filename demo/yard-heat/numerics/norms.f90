! How far apart two fields are.
module norms
  use kinds, only: wp
  implicit none
  private
  public :: largest_difference
contains
  pure real(wp) function largest_difference(a, b)
    real(wp), intent(in) :: a(:), b(:)
    largest_difference = maxval(abs(a - b))
  end function largest_difference
end module norms
