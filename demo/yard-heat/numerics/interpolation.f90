! Values between given points.
module interpolation
  use kinds, only: wp
  implicit none
  private
  public :: between
contains
  pure real(wp) function between(points, values, at)
    real(wp), intent(in) :: points(:), values(:), at
    integer :: i
    between = values(size(values))
    if (at <= points(1)) then
      between = values(1)
      return
    end if
    do i = 2, size(points)
      if (at > points(i)) cycle
      between = values(i - 1) + (values(i) - values(i - 1))*(at - points(i - 1))/(points(i) - points(i - 1))
      return
    end do
  end function between
end module interpolation
