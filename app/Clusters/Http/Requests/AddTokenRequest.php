<?php

declare(strict_types=1);

namespace App\Clusters\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/**
 * What a form or a caller sends to ClusterController::addToken().
 */
final class AddTokenRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return [
            'token_name' => ['required', 'string', 'max:100'],
            'may' => ['nullable', 'string', Rule::in(['executions:write', 'metrics:write', 'usage:read', 'deploys:write', 'parts:read'])],
        ];
    }
}
