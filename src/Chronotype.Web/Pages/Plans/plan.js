// Lines of a plan's tables: one more at the end, or one left out. Without this, the empty lines at the end are filled in.
const form = document.querySelector('[data-plan]');

const changed = (target) => target.dispatchEvent(new Event('change', { bubbles: true }));

form?.addEventListener('click', (event) => {
    const add = event.target.closest('[data-add-row]');
    if (add) {
        const body = add.parentElement.querySelector('[data-rows] tbody');
        const line = body.lastElementChild.cloneNode(true);
        for (const input of line.querySelectorAll('input')) {
            input.value = '';
            input.removeAttribute('value');
        }
        body.append(line);
        line.querySelector('input').focus();
    }
    const drop = event.target.closest('[data-drop-row]');
    if (drop) {
        const line = drop.closest('tr');
        const next = line.nextElementSibling ?? line.previousElementSibling;
        // The last line stays, empty, so that one more can be made from it.
        if (line.parentElement.children.length === 1) {
            for (const input of line.querySelectorAll('input')) input.value = '';
            changed(form);
            return;
        }
        line.remove();
        next.querySelector('input').focus();
        changed(form);
    }
});
