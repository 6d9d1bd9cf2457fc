<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Catalog\CatalogObject;
use Fulcrion\Core\Access\Provisioning\ProvisionedRole;

/**
 * A cluster that keeps its own accounts, roles and grants.
 */
interface AccessSource
{
    /**
     * @return list<CatalogObject> of the schemas a policy may be written to
     *
     * @throws SourceError
     */
    public function objects(): array;

    /**
     * Accounts and what they hold, without those of the server and of this application.
     *
     * @return array{accounts: array<string, array{roles: list<string>, grants: list<array{list<string>, string}>}>, roles: array<string,
     *     array{roles: list<string>, grants: list<array{list<string>, string}>}>} grants as privileges and the path below the cluster (""
     * for all of it)
     *
     * @throws SourceError
     */
    public function held(): array;

    /**
     * @return array<string, list<string>> name => accounts of that name, quoted
     */
    public function accounts(): array;

    /**
     * Accounts people and programs sign in with, and what the server holds each of them to.
     *
     * @return list<ServerAccount> by name
     *
     * @throws SourceError
     */
    public function limited(): array;

    /**
     * Signs in as a test user that is held to some limits, and tries whether they hold.
     *
     * @return list<array{what: string, expected: string, got: string, holds: bool}>
     *
     * @throws SourceError
     */
    public function tryLimits(?float $statementSeconds, ?int $queriesPerHour): array;

    /**
     * Roles and views that were written out before.
     *
     * @return array<string, ProvisionedRole>
     *
     * @throws SourceError
     */
    public function written(): array;

    /** Of keyed hashes in views. It never leaves the server's views. */
    public function hashKey(): string;

    /**
     * @param  list<string>  $statements
     *
     * @throws SourceError naming the statement that failed; what ran before it stays
     */
    public function apply(array $statements): void;

    /**
     * Signs in as a test user that holds one role and selects.
     *
     * @param  array<string, string>  $selects name => statement
     * @return array<string, array{rows: int, digest: string, error: string|null}>
     *
     * @throws SourceError
     */
    public function tryAs(string $role, array $selects): array;

    /**
     * The same with all rights, to compare with.
     *
     * @param  array<string, string>  $selects
     * @return array<string, array{rows: int, digest: string, error: string|null}>
     */
    public function tryAsKeeper(array $selects): array;
}
