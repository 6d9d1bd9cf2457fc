<?php

declare(strict_types=1);

namespace Fulcrion\StandIn\Storage;

use Fulcrion\StandIn\WarehouseError;

/**
 * The name a writer waited for belongs to another table now; it has to look again.
 */
final class TableMoved extends WarehouseError
{
}
