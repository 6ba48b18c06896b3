! Heat on its way through a column. How a step is taken stands in a submodule: who uses this need not know.
module conduction
  use kinds, only: wp
  use mesh, only: column_mesh
  use material_base, only: material
  implicit none
  private
  public :: conduct
  interface
    module subroutine conduct(grid, clay, air, coefficient, step, temperature, into)
      type(column_mesh), intent(in) :: grid
      class(material), intent(in) :: clay
      real(wp), intent(in) :: air, coefficient, step
      real(wp), intent(inout) :: temperature(:)
      real(wp), intent(out) :: into  ! W/m2 from the air
    end subroutine conduct
  end interface
end module conduction
