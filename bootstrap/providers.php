<?php

declare(strict_types=1);

// One line for each capability. The frame comes first; what is put over it later may take its place.
return [
    App\Platform\Provider::class,
    App\Overview\Provider::class,
    App\Estate\Provider::class,
    App\Clusters\Provider::class,
    App\Telemetry\Provider::class,
    App\Metrics\Provider::class,
    App\Ledger\Provider::class,
    App\Statements\Provider::class,
    App\Sessions\Provider::class,
    App\Diagnostics\Provider::class,
    App\Health\Provider::class,
    App\Alerts\Provider::class,
    App\Settings\Provider::class,
    App\Capacity\Provider::class,
    App\Backup\Provider::class,
    App\Loading\Provider::class,
    App\Baseline\Provider::class,
    App\Profiles\Provider::class,
    App\Workbench\Provider::class,
    App\Storage\Provider::class,
    App\Encodings\Provider::class,
    App\Tuning\Provider::class,
    App\Jobs\Provider::class,
    App\Access\Provider::class,
    App\Usage\Provider::class,
    App\Cost\Provider::class,
    App\Limits\Provider::class,
    // Installed for development and the demo only.
    ...class_exists(Fulcrion\Tools\ToolsProvider::class) ? [Fulcrion\Tools\ToolsProvider::class] : [],
];
