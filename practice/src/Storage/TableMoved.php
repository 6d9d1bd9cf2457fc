<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Fulcrion\Practice\WarehouseError;

/**
 * The name a writer waited for belongs to another table now; it has to look again.
 */
final class TableMoved extends WarehouseError
{
}
