<?php

declare(strict_types=1);

/* Loads many small chunks into a table of a practice cluster; to be killed while it does. */

use Fulcrion\Practice\Storage\TableWriter;
use Fulcrion\Practice\Storage\Warehouse;

require __DIR__.'/../../vendor/autoload.php';

$table = Warehouse::open($argv[1])->table('s', 't') ?? exit(1);
$table->exclusively(static function ($base) use ($table): void {
    $writer = new TableWriter($table, $base, 4);
    for ($i = 0; $i < 100_000; $i++) {
        $writer->add([[$i], [0], ['killed'], [null]]);
        $writer->cut();
    }
    $writer->commit(1);
});
