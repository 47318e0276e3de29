import { NavLink, useParams } from "react-router";
import { useLayout } from "../../api/registers";

const VIEWS = [
  { path: "", label: "Records" },
  { path: "/profile", label: "Profile" },
  { path: "/rules", label: "Rules" },
  { path: "/steps", label: "Steps" },
  { path: "/tables", label: "Swap lists and value maps" },
  { path: "/references", label: "References" },
];

/** The views of this stage, each with its own address. */
export function TidyNav() {
  const { slug = "" } = useParams();
  const refers = useLayout(slug).data?.fields.some(({ register_slug }) => register_slug !== "") ?? false;
  return (
    <nav aria-label="Views of Tidy" className="flex gap-1 text-sm">
      {VIEWS.filter(({ path }) => refers || path !== "/references").map(({ path, label }) => (
        <NavLink
          key={label}
          end={path === ""}
          to={`/r/${slug}/tidy${path}`}
          className="rounded-[3px] px-2 py-1 text-plum hover:bg-plum-wash aria-[current=page]:bg-plum-wash aria-[current=page]:font-semibold aria-[current=page]:text-ink"
        >
          {label}
        </NavLink>
      ))}
    </nav>
  );
}
