! Earthenware of roof tiles.
module roof_tile_material
  use kinds, only: wp
  use units, only: celsius
  use material_base, only: material
  implicit none
  private
  public :: roof_tile
  type, extends(material) :: roof_tile
  contains
    procedure :: conductivity
    procedure :: heat_capacity
    procedure :: density
  end type roof_tile
contains
  pure real(wp) function conductivity(self, temperature)
    class(roof_tile), intent(in) :: self
    real(wp), intent(in) :: temperature
    conductivity = max(1.0e-3_wp, 0.71_wp + (0.00024_wp)*celsius(temperature))
  end function conductivity
  pure real(wp) function heat_capacity(self, temperature)
    class(roof_tile), intent(in) :: self
    real(wp), intent(in) :: temperature
    heat_capacity = 830.0_wp + 0.22_wp*celsius(temperature)
  end function heat_capacity
  pure real(wp) function density(self)
    class(roof_tile), intent(in) :: self
    density = 1850.0_wp
  end function density
end module roof_tile_material
