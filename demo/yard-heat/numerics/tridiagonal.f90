! A modern face for the old solver.
module tridiagonal
  use kinds, only: wp
  implicit none
  private
  public :: solve_tridiagonal
  interface
    subroutine tridia(n, a, b, c, d)
      import :: wp
      integer, intent(in) :: n
      real(wp), intent(in) :: a(n)
      real(wp), intent(inout) :: b(n), c(n), d(n)
    end subroutine tridia
  end interface
contains
  subroutine solve_tridiagonal(below, diagonal, above, right)
    real(wp), intent(in) :: below(:)
    real(wp), intent(inout) :: diagonal(:), above(:), right(:)
    call tridia(size(right), below, diagonal, above, right)
  end subroutine solve_tridiagonal
end module tridiagonal
