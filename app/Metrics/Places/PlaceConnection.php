<?php

declare(strict_types=1);

namespace App\Metrics\Places;

use Closure;
use Illuminate\Database\Connectors\MariaDbConnector;
use Illuminate\Database\MariaDbConnection;
use Illuminate\Database\QueryException;
use PDO;
use PDOException;

/**
 * A connection to another server that keeps readings: whatever fails there says so.
 */
final class PlaceConnection extends MariaDbConnection
{
    /**
     * @param  array<string, mixed>  $settings
     */
    public function __construct(private readonly KeptPlace $place, array $settings)
    {
        $connect = static fn (): PDO => (new MariaDbConnector())->connect($settings);
        parent::__construct($connect, (string) $settings['database'], '', $settings);
    }

    /**
     * @throws PlaceError
     */
    public function beginTransaction(): void
    {
        try {
            parent::beginTransaction();
        } catch (PDOException $exception) {
            throw PlaceError::of($this->place, $exception);
        }
    }

    /**
     * @param  string  $query
     * @param  array<mixed>  $bindings
     *
     * @throws PlaceError
     */
    protected function run($query, $bindings, Closure $callback): mixed
    {
        try {
            return parent::run($query, $bindings, $callback);
        } catch (QueryException $exception) {
            $cause = $exception->getPrevious();
            throw PlaceError::of($this->place, $cause instanceof PDOException ? $cause : $exception);
        }
    }
}
