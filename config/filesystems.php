<?php

declare(strict_types=1);

return [
    'default' => 'local',
    'disks' => [
        // Nothing in it is handed out by address.
        'local' => ['driver' => 'local', 'root' => storage_path('app'), 'serve' => false, 'throw' => true],
    ],
];
